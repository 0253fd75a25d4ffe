"""Material: several channels as one thread, and back."""

from __future__ import annotations

import numpy as np

from reedloom.kit import COLOUR, MATERIAL, Context, Material, Port, kind
from reedloom.kit.channels import CHANNELS

CHANNEL_PORTS = tuple(
    Port(c.id, c.data, optional=True, plain=c.data is COLOUR and not c.srgb, help=f"The {c.label.lower()}.")
    for c in CHANNELS.values()
)


@kind(
    id="material",
    label="Material",
    family="value",
    version=1,
    purpose="Binds maps into one thread, so that a whole surface can be mixed with another.",
    inputs=CHANNEL_PORTS,
    outputs=(Port("material", MATERIAL, help="What is tied, as one."),),
    synonyms=("pbr", "bundle", "channels", "surface"),
)
def material(context: Context, *maps: np.ndarray | None) -> Material:
    return Material(
        {port.name: map for port, map in zip(CHANNEL_PORTS, maps, strict=True) if map is not None}
    )


@kind(
    id="material_channels",
    label="Material channels",
    family="value",
    version=1,
    purpose="Parts a material into its maps; a channel that it does not have is even.",
    inputs=(Port("material", MATERIAL),),
    outputs=tuple(
        Port(p.name, p.data, plain=p.plain, help=p.help) for p in CHANNEL_PORTS
    ),
    synonyms=("split", "unpack", "maps", "pbr"),
)  # fmt: skip
def material_channels(context: Context, material: Material) -> dict[str, np.ndarray]:
    return {name: channel_of(context, material, name) for name in sorted(context.wanted)}


def channel_of(context: Context, material: Material, name: str) -> np.ndarray:
    """A channel of a material; or its fallback, spread over an even map that takes no memory."""
    if name in material:
        return material[name]
    fallback = CHANNELS[name].fallback
    shape = (context.height, context.width)
    if len(fallback) == 1:
        return np.broadcast_to(np.float32(fallback[0]), shape)
    return np.broadcast_to(np.array(fallback, np.float32), (*shape, 3))
