"""Edits: undo swaps whole documents, so no edit needs inverse code.

Every edit checks itself against what it is applied to and raises a `ReedError` rather than making a
broken document; what single edits cannot see, `weave/check.py` does.
"""

from reedloom.weave.edits.base import Batch, Edit, GraphEdit, Inside
from reedloom.weave.edits.board import AddPiece, MoveItems, PutItem, RemoveItems
from reedloom.weave.edits.document import KeepViewpoint, MoveHome, SetDocument
from reedloom.weave.edits.nodes import (
    AddNode,
    RemoveNodes,
    ReorderSeries,
    SetNode,
    SetParameters,
    series_of,
)
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
    "Connect",
    "Disconnect",
    "Edit",
    "GraphEdit",
    "InsertOnThread",
    "Inside",
    "KeepViewpoint",
    "MoveHome",
    "MoveItems",
    "MoveThreads",
    "PutItem",
    "RemoveItems",
    "RemoveNodes",
    "ReorderSeries",
    "SetDocument",
    "SetNode",
    "SetParameters",
    "SwapInputs",
    "TakeOut",
    "Tie",
    "Untie",
    "series_of",
]
