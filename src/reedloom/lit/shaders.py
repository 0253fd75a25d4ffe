"""Puts shaders together: what is fixed when compiling, and how numbers reach every pixel.

Software OpenGL looks a fragment shader's uniforms up for each pixel by itself, some thirty instructions a
number, in loops again each turn; what the corners of triangles hand on as it is takes one. So the numbers
that a fragment shader names as uniforms become uniforms of its vertex shader, which hands them on.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import NamedTuple

from reedloom.data import FOLDER

GIVEN = "given_"
"""Begins the name of a uniform that the vertex shader hands on."""
_NUMBERS = re.compile(r"^uniform (float|int|vec2|vec3) (\w+)((?:\[\d+\])?);", re.MULTILINE)
_FOLDER = FOLDER / "shaders"
_BEGIN, _END = "#version 330\n", "    gl_Position = vec4(corner, 0.0, 1.0);\n}\n"


class Shaders(NamedTuple):
    """The sources of a program."""

    vertex: str
    fragment: str


def put_together(name: str, fixed: Mapping[str, int]) -> Shaders:
    """The shaders of a pass over an object.

    name : of the pass: "relief" or "surface"
    fixed : what is known when compiling, by name
    """
    text = "".join(f"#define {key} {value}\n" for key, value in fixed.items())
    text += "".join((_FOLDER / file).read_text() for file in ("object.glsl", f"{name}.frag"))
    numbers = _NUMBERS.findall(text)
    declared = "".join(f"uniform {t} {GIVEN}{n}{s};\nflat out {t} {n}{s};\n" for t, n, s in numbers)
    handed = "".join(f"    {n} = {GIVEN}{n};\n" for _, n, _ in numbers)
    vertex = "in vec2 corner;\n" + declared + "void main() {\n" + handed + _END
    return Shaders(_BEGIN + vertex, _BEGIN + _NUMBERS.sub(r"flat in \1 \2\3;", text))
