"""The families of node kinds, each with its weave swatch: an 8×8 binding pattern, a row a byte."""

from __future__ import annotations

from msgspec import Struct


class Family(Struct, frozen=True):
    """A family of kinds; bit 7 of each swatch row is its leftmost square."""

    id: str
    label: str
    purpose: str
    swatch: tuple[int, ...]


def _rows(text: str) -> tuple[int, ...]:
    """Repeat a small binding draft (# up, . down) over the 8×8 swatch."""
    draft = text.split()
    return tuple(
        sum((draft[y % len(draft)][x % len(draft[0])] == "#") << (7 - x) for x in range(8)) for y in range(8)
    )


FAMILIES: dict[str, Family] = {
    family.id: family
    for family in (
        Family("place", "Place", "Where things are computed", _rows("#. .#")),
        Family(
            "noise",
            "Noise",
            "Everything natural begins here",
            _rows("#....#.. ..#....# ....#..# .#....#. ...#.#.. #.....#. .#..#... ..#....#"),
        ),
        Family("shape", "Shape", "Drawn forms", _rows("##.. ##.. ..## ..##")),
        Family(
            "pattern",
            "Pattern",
            "Built repeats",
            _rows("####.... #..#.... #..#.... ####.... ....#### ....#..# ....#..# ....####"),
        ),
        Family(
            "points",
            "Points",
            "What gets stamped",
            _rows("........ .##...## .##...## ........ ........ ...##... ...##... ........"),
        ),
        Family(
            "path",
            "Path",
            "Curves over the tile",
            _rows("##...... ..##.... ....##.. ......## ......## ....##.. ..##.... ##......"),
        ),
        Family("tone", "Tone", "One value to another", _rows("##.. .##. ..## #..#")),
        Family(
            "combine", "Combine", "Several maps into one", _rows("#... .#.. ..#. ...# ...# ..#. .#.. #...")
        ),
        Family(
            "filter",
            "Filter",
            "Work on the picture",
            _rows("#....... ...#.... ......#. .#...... ....#... .......# ..#..... .....#.."),
        ),
        Family(
            "warp",
            "Warp",
            "Bend what is there",
            _rows("##...... .##..... ..##.... ...##... ....##.. .....##. ..##.... .##....."),
        ),
        Family(
            "vector",
            "Vector",
            "Ways to move and to face",
            _rows("#...#... ##..##.. ###.###. ####.... #####... ####.... ###.###. ##..##.."),
        ),
        Family(
            "height",
            "Height",
            "Work on surfaces",
            _rows("...##... ..####.. .######. ######## .######. ..####.. ...##... ........"),
        ),
        Family("colour", "Colour", "From grey to colour", _rows("###. ##.# #.## .###")),
        Family(
            "value",
            "In and out",
            "Numbers, pictures, maps",
            _rows("######## #......# #.####.# #.#..#.# #.#..#.# #.####.# #......# ########"),
        ),
        Family(
            "motif",
            "Motif",
            "Made of other nodes, here or in the swatch book",
            _rows("###..... #.#..... ###.###. ....#.#. .###.### .#.#.... .###.... ........"),
        ),
    )
}
