"""OpenGL calls that may take long, made without holding the interpreter lock.

moderngl keeps the lock while the driver works, which stalls the window; the same functions called
through ctypes leave it free. They act on what is bound in the calling thread's context.
"""

from __future__ import annotations

import ctypes
from typing import Any

import numpy as np

from reedloom.errors import ReedError

TEXTURE_2D, TRIANGLES, FLOAT, MAX_LEVEL = 0x0DE1, 0x0004, 0x1406, 0x813D
FORMATS = {1: 0x1903, 2: 0x8227, 3: 0x1907, 4: 0x1908}
"""Pixel formats by number of components: red, red and green, RGB, RGBA."""
STORED = {1: 0x822A, 2: 0x8230, 3: 0x8814, 4: 0x8814}
"""How they are stored: 32-bit float each, and three as four, which are read a twentieth of a frame sooner;
one alone, from 0 to 1, in 16 bits: another twentieth."""
HALVES = 0x881A
"""Four 16-bit floats."""
_INT, _POINTER = ctypes.c_int, ctypes.c_void_p
SIGNATURES = {
    "glFinish": (),
    "glGetError": (),
    "glDrawArrays": (_INT, _INT, _INT),
    "glGenerateMipmap": (_INT,),
    "glTexParameteri": (_INT, _INT, _INT),
    "glTexImage2D": (_INT, _INT, _INT, _INT, _INT, _INT, _INT, _INT, _POINTER),
    "glTexSubImage2D": (_INT, _INT, _INT, _INT, _INT, _INT, _INT, _INT, _POINTER),
}


ERRORS = {0x0500: "invalid enum", 0x0501: "invalid value", 0x0502: "invalid operation",
          0x0505: "out of memory", 0x0506: "invalid framebuffer"}  # fmt: skip
MOST_ERRORS = 8
"""Errors that are read at once; the driver hands them out one by one."""


class OpenGLError(ReedError):
    """The graphics driver refused something."""


class Calls:
    """The functions, found through a context's own loader."""

    def __init__(self, loader: Any) -> None:
        self._functions = {
            name: ctypes.CFUNCTYPE(_INT if name == "glGetError" else None, *arguments)(loader.load(name))
            for name, arguments in SIGNATURES.items()
        }

    def check(self, doing: str) -> None:
        """Read the errors that have gathered; `OpenGLError` says what could not be done, if any."""
        found = {code for _ in range(MOST_ERRORS) if (code := self._functions["glGetError"]())}
        if found:
            reasons = ", ".join(sorted(ERRORS.get(code, f"error {code:#x}") for code in found))
            raise OpenGLError(f"The graphics driver could not {doing} ({reasons}); try a smaller view size.")

    def draw(self, array: Any, corners: int) -> None:
        """Draw the first corners of a vertex array as triangles, and wait until they are drawn."""
        array.render(vertices=0)  # binds the array and its program
        self._functions["glDrawArrays"](TRIANGLES, 0, corners)
        self._functions["glFinish"]()

    def fill(self, texture: Any, picture: np.ndarray, same_size: bool) -> None:
        """Replace all samples of a texture, and make its smaller pictures.

        texture : a moderngl float texture with as many components; its own `size` is not kept.
        picture : (height, width, components) contiguous float32
        same_size : whether the last picture filled in had the same size.
        """
        height, width, components = picture.shape
        assert picture.dtype == np.float32 and picture.flags.c_contiguous
        assert texture.components == components
        texture.use(0)
        form, data = FORMATS[components], picture.ctypes.data_as(_POINTER)
        if same_size:
            self._functions["glTexSubImage2D"](TEXTURE_2D, 0, 0, 0, width, height, form, FLOAT, data)
        else:
            stored = STORED[components]
            self._functions["glTexImage2D"](TEXTURE_2D, 0, stored, width, height, 0, form, FLOAT, data)
        self._functions["glTexParameteri"](TEXTURE_2D, MAX_LEVEL, 1000)
        self._functions["glGenerateMipmap"](TEXTURE_2D)
        self._functions["glFinish"]()
        self.check(f"take a map of {width} × {height} samples")
