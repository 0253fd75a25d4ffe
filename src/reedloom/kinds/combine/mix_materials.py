"""Mix materials: up to seven laid over one by masks, by height, or by both."""

from __future__ import annotations

from typing import Any

import numpy as np

from reedloom.kernels.pyramid import measure_covered, read_as_one, read_together
from reedloom.kinds.combine.by_height import overlap_share
from reedloom.kinds.combine.modes import lay_on
from reedloom.kinds.height.normals import mix_rows
from reedloom.kinds.value.material import channel_of
from reedloom.kit import (
    GREY,
    MATERIAL,
    VECTOR,
    Change,
    Choice,
    Context,
    Float,
    Material,
    Port,
    Role,
    Switch,
    kind,
)
from reedloom.kit.channels import CHANNELS
from reedloom.kit.parameters import Parameter

HOW = ("mask", "height", "mask and height")
LEFT, EVEN = "leaves what is below", "lies even"
MOST = 7
"""Materials that can be laid over the first."""


def row_name(name: str, number: int) -> str:
    """What a row's input or parameter is called; those of the first have no number."""
    return name if number == 1 else f"{name}_{number}"


def row_ports(number: int) -> tuple[Port, ...]:
    """What may be tied for one material laid on."""
    return (
        Port(
            row_name("above", number),
            MATERIAL,
            optional=number > 1,
            help="A material laid over those before it.",
            series=number,
        ),
        Port(
            row_name("mask", number),
            GREY,
            optional=True,
            help="Where it is laid; everywhere if not tied.",
            role=Role.MASK,
            series=number,
        ),
        Port(
            row_name("place", number),
            VECTOR,
            optional=True,
            help="Where it is read: moves, turns or repeats it.",
            role=Role.PLACE,
            series=number,
        ),
    )


def row_parameters(number: int) -> tuple[Parameter, ...]:
    """What is set for one material laid on."""
    row: dict[str, Any] = {"series": number, "group": f"Material {number}"}
    compared = {row_name("by", number): ("height", "mask and height")}
    return (
        Choice(
            row_name("by", number),
            "mask",
            HOW,
            label="By",
            help="What decides where the upper material shows.",
            **row,
        ),
        Float(
            row_name("strength", number),
            1.0,
            (0, 1),
            (0, 1),
            label="Strength",
            help="How much of the upper material shows at most.",
            **row,
        ),
        Float(
            row_name("offset", number),
            0.0,
            (-0.5, 0.5),
            label="Offset",
            help="Raises the upper material before heights are compared.",
            shown_if=compared,
            **row,
        ),
        Float(
            row_name("softness", number),
            0.1,
            (0, 0.5),
            (0, 10),
            label="Softness",
            help="Over how much height one gives way to the other.",
            shown_if=compared,
            **row,
        ),
    )


@kind(
    id="mix_materials",
    label="Mix materials",
    family="combine",
    version=2,
    purpose="Lays up to seven materials over one: by a mask, where they are higher, or where both say so.",
    inputs=(
        Port("below", MATERIAL, help="The material that is there."),
        *(port for n in range(1, MOST + 1) for port in row_ports(n)),
    ),
    outputs=(
        Port("material", MATERIAL, help="All of them, as one."),
        Port("mask", GREY, help="Where those laid over the first show in the end."),
    ),
    parameters=(
        *row_parameters(1),
        Choice(
            "absent_above",
            LEFT,
            (LEFT, EVEN),
            former=("absent",),
            help="What a channel that the upper material lacks does: leaves the lower one, or lies even.",
        ),
        *(
            Switch(
                f"mix_{c.id}", True, label=c.label, group="Channels", help="Whether this channel is mixed."
            )
            for c in CHANNELS.values()
        ),
        *(p for n in range(2, MOST + 1) for p in row_parameters(n)),
    ),
    exempt={"shift": "a material with a place stays there while its maps are shifted"},
    synonyms=("blend", "layer", "lay over", "weathering", "dirt"),
    changes={
        2: Change(
            "What the upper material lacks can leave what is below now; it lies even here, as it did.",
            lambda values: {**values, "absent_above": EVEN},
        )
    },
)
def mix_materials(context: Context, below: Material, *tied: Any, **values: Any) -> dict[str, Any]:
    left = context.full(1.0) if "mask" in context.wanted else None
    for number in range(1, MOST + 1):
        above, mask, place = tied[3 * number - 3 : 3 * number]
        if above is None:
            continue
        if place is not None:
            above = read_material(context, above, place)
        row = {name: values[row_name(name, number)] for name in ("by", "strength", "offset", "softness")}
        below, share = laid_over(context, below, above, mask, row, values)
        if left is not None:
            left = context.map_bands(lambda rest, here: rest * (1 - here), left, share)
    if left is None:
        return {"material": below}
    return {"material": below, "mask": context.map_bands(lambda rest: 1 - rest, left)}


def read_material(context: Context, material: Material, place: np.ndarray) -> Material:
    """All channels of a material read at a place."""
    read: dict[str, np.ndarray] = {}
    names = tuple(material)
    covered = measure_covered(context.bands, (context.height, context.width), place)
    for group in read_as_one(material):
        maps = [np.ascontiguousarray(material[name]) for name in group]
        for name in group:
            material.let_go(name)
        read.update(zip(group, read_together(context.bands, maps, place, "linear", covered), strict=True))
    return Material.spare(Material({name: read[name] for name in names}))


def laid_over(
    context: Context,
    below: Material,
    above: Material,
    mask: np.ndarray | None,
    row: dict[str, Any],
    values: dict[str, Any],
) -> tuple[Material, np.ndarray]:
    """One material laid over another as its row says, and where it shows."""
    strength = np.float32(row["strength"])
    if row["by"] != "mask":
        share = share_by_height(context, below, above, mask, row)
        share *= strength
    elif mask is None:
        share = context.full(row["strength"])
    else:
        share = context.map_bands(lambda m: np.clip(m, 0, 1) * strength, mask)
    mixed = Material()
    present = [name for name in CHANNELS if name in below or name in above]
    largest_first = sorted(present, key=lambda name: CHANNELS[name].data == GREY)  # they free most
    for name in largest_first:
        first = channel_of(context, below, name)
        left = name not in above and values["absent_above"] == LEFT
        if not left and values[f"mix_{name}"]:
            second = channel_of(context, above, name)
            if name == "height" and row["by"] != "mask":
                second = second + np.float32(row["offset"])
            mixed[name] = _mix(context, name, first, second, share)
        elif name in below:
            mixed[name] = first
        below.let_go(name)
        above.let_go(name)
    mixed = Material.spare(Material({name: mixed[name] for name in present if name in mixed}))
    return mixed, share


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

    return context.map_bands(work, first, second, *(() if mask is None else (mask,)), channels=1)


def _mix(context: Context, name: str, first: np.ndarray, second: np.ndarray, share: np.ndarray) -> np.ndarray:
    out = context.empty(3 if first.ndim == 3 else 1)

    def band(y0: int, y1: int) -> None:
        if name == "normal":  # as vectors, so that a half way keeps its length
            flat = (map[y0:y1].reshape(-1, 3) for map in (first, second, out))
            mix_rows(*flat, share[y0:y1].reshape(-1))
        else:
            lay_on(first[y0:y1], second[y0:y1], share[y0:y1], np.float32(1), out[y0:y1])

    context.bands(band)
    return out
