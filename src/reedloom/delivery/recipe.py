"""Delivers a weave's map set: evaluates, encodes and writes it, all files or none.

Everything is written into a hidden folder beside the results and moved to its place when the last
file is whole. While one map is written the next is computed; results nobody needs any more are freed.
"""

from __future__ import annotations

import os
import shutil
import stat
import threading
from collections.abc import Callable, Iterable
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from reedloom.delivery.encode import FORMATS, Format, write_map
from reedloom.delivery.names import fill_template, plain_name
from reedloom.errors import EvaluationError, FileError, ReedError, unknown
from reedloom.files import clear_leftovers, explain, flush, fresh
from reedloom.kernels.jit import Stop
from reedloom.kit.channels import CHANNELS, Channel, get_channel
from reedloom.kit.values import convert
from reedloom.loom.run import check_size, evaluate_ends
from reedloom.weave.document import Document, End
from reedloom.weave.resolve import FlatGraph

Progress = Callable[[float], None]
NORMAL_Y = ("up", "down")
HIDDEN, OLD = ".reedloom-", "old-"
"""How the folder begins in which a set is written, and the second names of what it replaces."""


@dataclass(frozen=True, slots=True)
class Order:
    """A delivery, checked: what goes where and how."""

    flat: FlatGraph
    folder: Path
    size: tuple[int, int]
    format: Format
    normal_y: str
    files: dict[str, Path]


def plan_delivery(
    document: Document,
    flat: FlatGraph,
    folder: Path,
    *,
    size: int | None = None,
    format: str | None = None,
    maps: Iterable[str] | None = None,
    name: str | None = None,
    normal_y: str | None = None,
) -> Order:
    """Check a delivery and name its files; what is not given is as in the weave's recipe.

    flat : the document resolved, with the colourway and dials that are wanted.

    Raises
    ------
    ReedError
        One sentence about the first thing that is wrong.
    """
    recipe = document.recipe
    width, height = check_size(recipe.size if size is None else size, flat.surface)
    format_id = format or recipe.format
    if format_id not in FORMATS:
        raise unknown("format", format_id, FORMATS)
    direction = normal_y or recipe.normal_y
    if direction not in NORMAL_Y:
        raise unknown("direction of normal Y", direction, NORMAL_Y)
    if not flat.ends:
        raise ReedError(
            "Nothing is tied to the map rail; tie an output to a map, such as height, and deliver again."
        )
    wanted = [get_channel(channel).id for channel in (flat.ends if maps is None else maps)]
    for channel in wanted:
        if channel not in flat.ends:
            raise unknown("tied map", channel, flat.ends)
    files: dict[str, Path] = {}
    for channel in (c for c in CHANNELS if c in wanted):
        tokens = {"weave": plain_name(document.name), "map": channel, "size": str(width), "depth": format_id}
        files[channel] = folder / (fill_template(name or recipe.name, tokens) + FORMATS[format_id].suffix)
    if len(set(files.values())) < len(files):
        raise ReedError("The name template gives several maps one name; put {map} into it.")
    return Order(flat, folder, (width, height), FORMATS[format_id], direction, files)


def deliver_weave(
    document: Document,
    flat: FlatGraph,
    folder: Path,
    *,
    overwrite: bool = True,
    stop: Stop | None = None,
    progress: Progress | None = None,
    **choices: object,
) -> list[Path]:
    """Plan and carry out a delivery; see `plan_delivery` for the choices. Returns the files' paths."""
    return carry_out(plan_delivery(document, flat, folder, **choices), overwrite, stop, progress)  # type: ignore[arg-type]


def taken(order: Order) -> list[Path]:
    """The files that are there already and would be replaced.

    Raises
    ------
    FileError
        If the folder cannot be looked into, or a folder stands where a map is to be.
    """
    found = []
    for path in order.files.values():
        try:
            mode = path.lstat().st_mode
        except FileNotFoundError:
            continue
        except (OSError, ValueError) as error:
            raise explain(error, order.folder, "deliver to") from None
        if stat.S_ISDIR(mode):
            raise FileError(
                f"Cannot write '{path}': a folder of that name is there; choose another folder or name."
            )
        found.append(path)
    return found


def carry_out(
    order: Order, overwrite: bool = True, stop: Stop | None = None, progress: Progress | None = None
) -> list[Path]:
    """Compute and write an order's files.

    Raises
    ------
    Cancelled
        When `stop` was set; no file has changed.
    FileError, EvaluationError
        With the reason; no file has changed.
    """
    there = taken(order)
    if there and not overwrite:
        raise FileError(
            f"'{there[0]}' is there already; choose another folder or name, or allow overwriting."
        )
    try:
        order.folder.mkdir(parents=True, exist_ok=True)
        clear_leftovers(order.folder, HIDDEN, "")
        hidden, handle = fresh(order.folder, HIDDEN, "", is_folder=True)
    except (OSError, ValueError) as error:
        raise explain(error, order.folder, "deliver to") from None
    try:
        _write_all(order, hidden, stop or Stop(), progress)
        for path in order.files.values():
            flush(hidden / path.name)
        _move_in(order.files.values(), hidden)
        flush(order.folder)
    except OSError as error:
        raise explain(error, order.folder, "deliver to") from None
    finally:
        shutil.rmtree(hidden, ignore_errors=True)
        if handle is not None:
            os.close(handle)
    return list(order.files.values())


def _move_in(files: Iterable[Path], hidden: Path) -> None:
    """Put all new files in their places, or none: what they replace has a second name until all are there."""
    moved: list[tuple[Path, Path | None]] = []
    try:
        for path in files:
            old = hidden / f"{OLD}{path.name}"
            try:
                os.link(path, old, follow_symlinks=False)
            except FileNotFoundError:
                moved.append((path, None))
            except OSError:  # a file system without hard links
                shutil.copy2(path, old)
                moved.append((path, old))
            else:
                moved.append((path, old))
            (hidden / path.name).replace(path)
    except BaseException:
        for path, kept in moved:
            with suppress(OSError):
                if kept is not None:
                    kept.replace(path)
                elif not (hidden / path.name).exists():
                    path.unlink(missing_ok=True)
        raise


def _write_all(order: Order, hidden: Path, stop: Stop, progress: Progress | None) -> None:
    ties = order.flat.ends
    channels: dict[End, list[str]] = {}
    for channel in order.files:
        channels.setdefault(ties[channel], []).append(channel)
    writing: list[Future[None]] = []
    slots = threading.Semaphore(2)

    with ThreadPoolExecutor(2, thread_name_prefix="reedloom-write") as pool:

        def write(channel: Channel, array: np.ndarray) -> None:
            try:
                prepared = _prepare(array, channel, order.normal_y)
                path = order.files[channel.id]
                write_map(hidden / path.name, prepared, order.format, channel.srgb, stop=stop, shown=path)
            finally:
                slots.release()

        def take(end: End, array: np.ndarray) -> None:
            for channel in channels[end]:
                slots.acquire()  # no more than two maps wait to be written, which bounds the memory
                writing.append(pool.submit(write, CHANNELS[channel], array))

        def tell(share: float) -> None:
            if progress is not None:
                progress(share * 0.95)

        try:
            outcome = evaluate_ends(
                order.flat, channels, order.size, keep=False, stop=stop, progress=tell, take=take
            )
        except BaseException:
            stop.set()
            raise
        for node, reason in outcome.failures.items():
            stop.set()
            raise EvaluationError(node, reason)
        for future in writing:
            future.result()
    stop.check()
    if progress is not None:
        progress(1.0)


def _prepare(array: np.ndarray, channel: Channel, normal_y: str) -> np.ndarray:
    """A map as its channel holds it, normals turned to the wanted direction of Y."""
    array = convert(array, channel.data)
    if channel.id == "normal" and normal_y == "down":
        array = array.copy()
        array[..., 1] = 1 - array[..., 1]
    return array
