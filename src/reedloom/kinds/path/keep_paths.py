"""Keep paths: some of them, by chance, length or a mask, and only a part of each."""

from __future__ import annotations

import numpy as np

from reedloom.kernels.hashing import unit_chances
from reedloom.kernels.points import starts_of
from reedloom.kinds.path.path_parts import PATHS_IN, PATHS_OUT, read_on, runs_of
from reedloom.kit import GREY, Context, Float, Length, Port, Role, Seed, Switch, kind


@kind(
    id="keep_paths",
    label="Keep paths",
    family="path",
    version=1,
    purpose="Leaves some paths out: by chance, by length, by order, or by a mask where they begin.",
    inputs=(
        PATHS_IN,
        Port("mask", GREY, optional=True, help="Paths stay that begin above the level.", role=Role.MASK),
    ),
    outputs=(PATHS_OUT,),
    parameters=(
        Float("share", 1.0, (0, 1), (0, 1), help="The share that stays, by chance."),
        Float("level", 0.5, (0, 1), help="Where the mask begins to keep paths."),
        Length("shortest", 0.0, (0, 1), (0, 1e3), help="The least length that stays."),
        Length("longest", 1e3, (0, 4), (0, 1e3), help="The greatest length that stays."),
        Float("order_from", 0.0, (0, 1), (0, 1), help="Where among all, in their order, the first stays."),
        Float("order_to", 1.0, (0, 1), (0, 1), help="Where among all, in their order, the last stays."),
        Switch("others", False, help="Keeps just the others instead."),
        Seed(),
    ),
    sample={"share": 0.5},
    synonyms=("filter", "remove", "thin", "cull", "delete"),
)
def keep_paths(
    context: Context, paths: np.ndarray, mask: np.ndarray | None, share: float, level: float,
    shortest: float, longest: float, order_from: float, order_to: float, others: bool, seed: int,
) -> np.ndarray:  # fmt: skip
    starts = starts_of(paths)
    firsts = paths[starts[:-1]]
    _, lengths = runs_of(context, paths, starts)
    kept = unit_chances(seed, firsts["id"], 5) < share
    kept &= (lengths >= shortest) & (lengths <= longest)
    place = (np.arange(len(firsts)) + 0.5) / max(len(firsts), 1)
    kept &= (place >= order_from) & (place <= order_to)
    if mask is not None:
        kept &= read_on(mask, firsts) > level
    return paths[np.repeat(~kept if others else kept, np.diff(starts))]
