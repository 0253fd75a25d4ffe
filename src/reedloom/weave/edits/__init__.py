"""Edits: undo swaps whole documents, so no edit needs inverse code.

Every edit checks itself against what it is applied to and raises a `ReedError` rather than making a
broken document; what single edits cannot see, `weave/check.py` does.
"""

from reedloom.weave.edits.base import Batch, Edit, GraphEdit, Inside
from reedloom.weave.edits.board import AddPiece, MoveItems, PutItem, RemoveItems
from reedloom.weave.edits.bringing import BringPiece, PullMotif
from reedloom.weave.edits.dials import (
    EachOf,
    OrderParts,
    PutColourway,
    PutDial,
    PutOn,
    RemoveColourway,
    RemoveDial,
    RenameColourway,
    SetFormula,
    TakeAsDefaults,
    TurnAll,
    TurnDials,
)
from reedloom.weave.edits.document import KeepViewpoint, MoveHome, SetDocument
from reedloom.weave.edits.motifs import (
    DescribeMotif,
    ForkMotif,
    NameInlet,
    RemoveMotif,
    RemoveNotch,
    RenameNotch,
    TieOutlet,
)
from reedloom.weave.edits.nodes import (
    AddNode,
    RemoveNodes,
    ReorderSeries,
    SetNode,
    SetParameters,
    series_of,
)
from reedloom.weave.edits.packing import PackMotif, UnpackMotif
from reedloom.weave.edits.threads import (
    Connect,
    Disconnect,
    InsertOnThread,
    MoveThreads,
    SwapInputs,
    TakeOut,
    Tie,
    Untie,
)

__all__ = [
    "AddNode",
    "AddPiece",
    "Batch",
    "BringPiece",
    "Connect",
    "DescribeMotif",
    "Disconnect",
    "EachOf",
    "Edit",
    "ForkMotif",
    "GraphEdit",
    "InsertOnThread",
    "Inside",
    "KeepViewpoint",
    "MoveHome",
    "MoveItems",
    "MoveThreads",
    "NameInlet",
    "OrderParts",
    "PackMotif",
    "PullMotif",
    "PutColourway",
    "PutDial",
    "PutItem",
    "PutOn",
    "RemoveColourway",
    "RemoveDial",
    "RemoveItems",
    "RemoveMotif",
    "RemoveNodes",
    "RemoveNotch",
    "RenameColourway",
    "RenameNotch",
    "ReorderSeries",
    "SetDocument",
    "SetFormula",
    "SetNode",
    "SetParameters",
    "SwapInputs",
    "TakeAsDefaults",
    "TakeOut",
    "Tie",
    "TieOutlet",
    "TurnAll",
    "TurnDials",
    "UnpackMotif",
    "Untie",
    "series_of",
]
