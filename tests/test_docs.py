"""Pages made from the code are current, and every picture they show is there."""

from __future__ import annotations

import re
from pathlib import Path

import nodes_page

ROOT = Path(__file__).resolve().parents[1]


def test_the_page_of_nodes_is_what_the_declarations_say() -> None:
    assert (ROOT / "docs" / "nodes.md").read_text() == nodes_page.page()


def test_every_picture_that_a_page_shows_is_there() -> None:
    for page in (ROOT / "README.md", *(ROOT / "docs").glob("*.md")):
        for name in re.findall(r"!\[[^\]]*\]\(([^)]+)\)", page.read_text()):
            assert (page.parent / name).is_file(), f"{page.name}: {name}"
    shown = set(re.findall(r"nodes/([a-z_]+\.png)", (ROOT / "docs" / "nodes.md").read_text()))
    assert shown == {p.name for p in (ROOT / "docs" / "nodes").glob("*.png")}
