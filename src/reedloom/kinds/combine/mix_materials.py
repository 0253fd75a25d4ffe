"""Mix materials: one laid over another by a mask, by height, or by both."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kinds.combine.by_height import overlap_share
from reedloom.kinds.height.normals import decoded, encoded
from reedloom.kinds.value.material import channel_of
from reedloom.kit import GREY, MATERIAL, Change, Choice, Context, Float, Material, Port, Role, Switch, kind
from reedloom.kit.channels import CHANNELS

HOW = ("mask", "height", "mask and height")
LEFT, EVEN = "leaves what is below", "lies even"


@kind(
    id="mix_materials",
    label="Mix materials",
    family="combine",
    version=2,
    purpose="Lays one material over another: by a mask, where it is higher, or where both say so.",
    inputs=(
        Port("below", MATERIAL, help="The material that is there."),
        Port("above", MATERIAL, help="The material laid over it."),
        Port("mask", GREY, optional=True, help="Where it is laid; everywhere if not tied.", role=Role.MASK),
    ),
    outputs=(
        Port("material", MATERIAL, help="Both, as one."),
        Port("mask", GREY, help="Where the upper one shows in the end."),
    ),
    parameters=(
        Choice("by", "mask", HOW, help="What decides where the upper material shows."),
        Float("strength", 1.0, (0, 1), (0, 1), help="How much of the upper material shows at most."),
        Float(
            "offset",
            0.0,
            (-0.5, 0.5),
            help="Raises the upper material before heights are compared.",
            shown_if={"by": "height"},
        ),
        Float(
            "softness",
            0.1,
            (0, 0.5),
            (0, 10),
            help="Over how much height one gives way to the other.",
            shown_if={"by": "height"},
        ),
        Choice(
            "absent",
            LEFT,
            (LEFT, EVEN),
            label="Absent above",
            help="What a channel that the upper material lacks does: leaves the lower one, or lies even.",
        ),
        *(
            Switch(
                f"mix_{c.id}", True, label=c.label, group="Channels", help="Whether this channel is mixed."
            )
            for c in CHANNELS.values()
        ),
    ),
    synonyms=("blend", "layer", "lay over", "weathering", "dirt"),
    changes={
        2: Change(
            "What the upper material lacks can leave what is below now; it lies even here, as it did.",
            lambda values: {**values, "absent": EVEN},
        )
    },
)
def mix_materials(
    context: Context, below: Material, above: Material, mask: np.ndarray | None, **values: Any
) -> dict[str, Any]:
    share = context.full(1.0) if mask is None else np.clip(mask, 0, 1)
    if values["by"] != "mask":
        share = share_by_height(context, below, above, mask, values)
    share = share * np.float32(values["strength"])
    mixed = Material()
    for name in CHANNELS:
        if name not in below and name not in above:
            continue
        first = channel_of(context, below, name)
        left = name not in above and values["absent"] == LEFT
        if left or not values[f"mix_{name}"]:
            if name in below:
                mixed[name] = first
            continue
        second = channel_of(context, above, name)
        if name == "height" and values["by"] != "mask":
            second = second + np.float32(values["offset"])
        mixed[name] = _mix(context, name, first, second, share)
    return {"material": mixed, "mask": share}


def share_by_height(
    context: Context, below: Material, above: Material, mask: np.ndarray | None, values: dict[str, Any]
) -> np.ndarray:
    """Where the upper material shows when heights are compared.

    A mask sinks the upper material where it is low: where it is 0 nothing of it shows, and along its
    border the upper one comes through first where it stands high and the lower one lies low.
    """
    first, second = (channel_of(context, m, "height") for m in (below, above))
    soft, offset = values["softness"], np.float32(values["offset"])

    def work(a: np.ndarray, b: np.ndarray, *masks: np.ndarray) -> np.ndarray:
        lead = b - a + offset
        if not masks:
            return overlap_share(lead, soft)
        m = np.clip(masks[0], 0, 1)
        if values["by"] == "mask and height":
            # The mask leads; heights decide only along its border.
            shown: np.ndarray = overlap_share(lead * np.float32(0.5) + (m - np.float32(0.5)) * 2, soft + 1e-3)
            return shown * (m > 0)
        return overlap_share(lead, soft) * m

    first, second = np.ascontiguousarray(first), np.ascontiguousarray(second)
    return context.map_bands(work, first, second, *(() if mask is None else (mask,)))


def _mix(context: Context, name: str, first: np.ndarray, second: np.ndarray, share: np.ndarray) -> np.ndarray:
    def work(a: np.ndarray, b: np.ndarray, s: np.ndarray) -> np.ndarray:
        t = s if a.ndim == 2 else s[..., None]
        if name == "normal":  # as vectors, so that a half way keeps its length
            return encoded(decoded(a) * (1 - t) + decoded(b) * t)
        return a + (b - a) * t

    return context.map_bands(work, np.ascontiguousarray(first), np.ascontiguousarray(second), share)
