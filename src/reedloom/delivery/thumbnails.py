"""Pictures of weaves where file managers look for them, by the freedesktop thumbnail standard.

Thumbnail Managing Standard 0.9: a PNG named by the MD5 of the file's URI below the user's caches, with
the URI and the file's time written into it; what cannot be shown is noted as failed.
"""

from __future__ import annotations

import hashlib
import os
from contextlib import suppress
from pathlib import Path

import numpy as np

from reedloom import __version__
from reedloom.delivery.png import write_png
from reedloom.errors import ReedError
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.loom.run import evaluate_ends
from reedloom.preview.encodings import rgb_picture
from reedloom.preview.stand_ins import as_map
from reedloom.weave.document import Document
from reedloom.weave.fileformat import load_document
from reedloom.weave.resolve import resolve
from reedloom.weave.states import surface_of

SIDES = {"normal": 128, "large": 256, "x-large": 512}
"""The standard's sizes by the names of their folders."""


def _root() -> Path:
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "thumbnails"


def uri_of(path: Path) -> str:
    """A file's canonical URI, by which thumbnails are found."""
    return path.absolute().as_uri()


def thumbnail_path(path: Path, size: str = "large") -> Path:
    """Where the thumbnail of a file is kept, whether or not it is there.

    size : a name of `SIDES`, or "fail/reedloom" for the note that there can be none
    """
    name = hashlib.md5(uri_of(path).encode(), usedforsecurity=False).hexdigest()
    folder = f"fail/reedloom-{__version__}" if size == "fail" else size
    return _root() / folder / f"{name}.png"


def is_current(path: Path, texts: dict[str, str]) -> bool:
    """Whether a thumbnail with such remarks is of a file as it is now."""
    try:
        time = int(path.stat().st_mtime)
    except (OSError, ValueError):
        return False
    return texts.get("Thumb::MTime") == str(time)


def surface_pixels(document: Document, kinds: Kinds, side: int, stop: Stop | None = None) -> np.ndarray:
    """A weave's whole surface as it is looked at, flat and in light from the upper left.

    Returns
    -------
    (H, W, 3) uint8, sRGB; the longer side has `side` samples

    Raises
    ------
    ReedError
        If there is nothing to be seen, with the reason.
    """
    flat, end = surface_of(resolve(document, kinds), kinds)
    size = flat.surface.fitting(side)
    if not flat.ends:
        raise ReedError("nothing is tied to its map rail.")
    outcome = evaluate_ends(flat, [end], size, stop=stop)
    value = outcome.results.get(end)
    if value is None:
        raise ReedError(next(iter(outcome.failures.values()), "it gives no surface."))
    return rgb_picture(as_map(value, *size))


def write_thumbnail(pixels: np.ndarray, path: Path, target: Path) -> None:
    """Write a thumbnail of a file, with what the standard wants in it, whole or not at all.

    Parameters
    ----------
    pixels : (H, W, 3) uint8
    target : Path
        Its folder is made, for the user alone, if it is not there.
    """
    height, width, _ = pixels.shape
    state = path.stat()
    texts = {
        "Thumb::URI": uri_of(path),
        "Thumb::MTime": str(int(state.st_mtime)),
        "Thumb::Size": str(state.st_size),
        "Thumb::Mimetype": "application/x-reed-loom-weave",
        "Software": "Reed Loom",
    }
    target.parent.mkdir(mode=0o700, parents=True, exist_ok=True)
    part = target.with_name(f".{target.name}.{os.getpid()}.part")
    try:
        write_png(part, (width, height), 3, 8, True, lambda y0, y1: pixels[y0:y1], lambda _: None, texts)
        part.chmod(0o600)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)


def note_failure(path: Path) -> None:
    """Note that a file has no thumbnail, so that nobody tries again before it changes."""
    with suppress(OSError):
        write_thumbnail(np.zeros((1, 1, 3), np.uint8), path, thumbnail_path(path, "fail"))


def make_thumbnail(path: Path, target: Path, side: int, kinds: Kinds | None = None) -> None:
    """Make a picture of a weave's file, as file managers ask for it.

    Raises
    ------
    ReedError
        If the weave cannot be read or shown.
    """
    known = kinds or all_kinds()
    pixels = surface_pixels(load_document(path, known), known, side)
    write_thumbnail(pixels, path, target)
