"""The channels of a material and slots of the map rail, as glTF 2.0 and OpenPBR name them."""

from __future__ import annotations

from msgspec import Struct

from reedloom.errors import unknown
from reedloom.kit.data import COLOUR, GREY, Data


class Channel(Struct, frozen=True):
    """One slot of the map rail.

    Attributes
    ----------
    data : Data
        COLOUR or GREY; what is tied is converted to it.
    fallback : tuple of float
        What the material uses while nothing is tied, linear.
    srgb : bool
        Whether files hold it with the sRGB transfer; all others are plain numbers.
    everyday : bool
        Whether its slot is always on the rail; the others come with what is tied to them, or when asked.
    """

    id: str
    label: str
    data: Data
    fallback: tuple[float, ...]
    srgb: bool = False
    everyday: bool = True


CHANNELS: dict[str, Channel] = {
    channel.id: channel
    for channel in (
        Channel("base_colour", "Base colour", COLOUR, (0.5, 0.5, 0.5), srgb=True),
        Channel("roughness", "Roughness", GREY, (0.5,)),
        Channel("metallic", "Metallic", GREY, (0.0,)),
        Channel("normal", "Normal", COLOUR, (0.5, 0.5, 1.0)),
        Channel("height", "Height", GREY, (0.5,)),
        Channel("ambient_occlusion", "Ambient occlusion", GREY, (1.0,)),
        Channel("opacity", "Opacity", GREY, (1.0,)),
        Channel("emission", "Emission", COLOUR, (0.0, 0.0, 0.0)),
        Channel("specular_level", "Specular level", GREY, (0.5,), everyday=False),
        Channel("coat_weight", "Coat weight", GREY, (0.0,), everyday=False),
        Channel("coat_roughness", "Coat roughness", GREY, (0.1,), everyday=False),
        Channel("sheen", "Sheen", GREY, (0.0,), everyday=False),
        Channel("subsurface", "Subsurface weight", GREY, (0.0,), everyday=False),
        Channel("film_thickness", "Film thickness", GREY, (0.0,), everyday=False),
        Channel("anisotropy", "Anisotropy", GREY, (0.0,), everyday=False),
        Channel("anisotropy_angle", "Anisotropy angle", GREY, (0.0,), everyday=False),
        Channel("coat_colour", "Coat colour", COLOUR, (1.0, 1.0, 1.0), srgb=True, everyday=False),
        Channel("sheen_colour", "Sheen colour", COLOUR, (1.0, 1.0, 1.0), srgb=True, everyday=False),
        Channel("subsurface_colour", "Subsurface colour", COLOUR, (0.8, 0.8, 0.8), srgb=True, everyday=False),
        Channel("subsurface_reach", "Subsurface reach", GREY, (0.5,), everyday=False),
        Channel("displacement", "Displacement", GREY, (0.5,), everyday=False),
    )
}


def get_channel(channel_id: str) -> Channel:
    """The channel of that id; `UnknownNameError` if there is none."""
    if not isinstance(channel_id, str) or channel_id not in CHANNELS:
        raise unknown("map", channel_id, CHANNELS, "on the map rail")
    return CHANNELS[channel_id]
