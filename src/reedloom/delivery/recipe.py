"""Delivers a weave's map set: evaluates, encodes and writes it, all files or none.

Everything is written into a hidden folder beside the results and moved to its place when the last
file is whole. While one map is written the next is computed; results nobody needs any more are freed.
"""

from __future__ import annotations

import os
import shutil
import stat
import threading
from collections.abc import Callable, Iterable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np
from msgspec import Struct

from reedloom.delivery.encode import FORMATS, Format, write_map
from reedloom.delivery.names import fill_folder, fill_template, plain_name, plain_part
from reedloom.errors import EvaluationError, FileError, ReedError, unknown
from reedloom.files import clear_leftovers, explain, flush, fresh
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds
from reedloom.kit.channels import CHANNELS, Channel, get_channel
from reedloom.kit.values import convert
from reedloom.loom.run import check_size, evaluate_ends
from reedloom.weave.dials import find_by_name
from reedloom.weave.document import Document, End
from reedloom.weave.resolve import STEP, FlatGraph, resolve
from reedloom.weave.states import beside, side_by_side

Progress = Callable[[float], None]
NORMAL_Y = ("up", "down")
ROWS, TINY = 256, 1e-4
HIDDEN, OLD = ".reedloom-", "old-"
"""How the folder begins in which a set is written, and the second names of what it replaces."""


class Item(Struct, frozen=True):
    """One file of a delivery: which output goes into it, as which map."""

    end: End
    channel: Channel
    path: Path


class Order(Struct, frozen=True):
    """A delivery, checked: what goes where and how.

    Attributes
    ----------
    flat : FlatGraph
        All colourways that are wanted, side by side, so that what they share is computed once.
    folder : Path
        Under which all files lie.
    """

    flat: FlatGraph
    folder: Path
    size: tuple[int, int]
    format: Format
    normal_y: str
    items: tuple[Item, ...]

    @property
    def files(self) -> list[Path]:
        """The files that are written."""
        return [item.path for item in self.items]


class Delivered(list[Path]):
    """The files of a delivery, in their order.

    Attributes
    ----------
    cut : mapping of a file to a share
        How much of a map, from 0 to 1, lay beyond the 0 to 1 that its file can hold, and was cut; maps of
        which nothing was cut are not in it.
    notes : mapping of a node's title to sentences
        What nodes say of their results, such as that a value was snapped so that the tile closes.
    """

    def __init__(
        self,
        files: Iterable[Path],
        cut: Mapping[Path, float],
        notes: Mapping[str, tuple[str, ...]],
    ) -> None:
        super().__init__(files)
        self.cut, self.notes = dict(cut), dict(notes)

    def told(self) -> list[str]:
        """A sentence for each map of which something was cut, then what nodes say."""
        shares = {path: f"{share:.1%}" if share >= 0.001 else "few" for path, share in self.cut.items()}
        return [
            f"{path.name}: {share} of its values lay beyond 0 to 1 and were cut; see its range bar."
            for path, share in shares.items()
        ] + [f"{title}: {note}" for title, notes in self.notes.items() for note in notes]


def plan_delivery(
    document: Document,
    flats: Mapping[str, FlatGraph],
    folder: Path,
    *,
    size: int | None = None,
    format: str | None = None,
    maps: Iterable[str] | None = None,
    name: str | None = None,
    normal_y: str | None = None,
) -> Order:
    """Check a delivery and name its files; what is not given is as in the weave's recipe.

    flats : the document resolved, by the names of the colourways that are wanted; an empty name is for the
    dials as they are turned.
    folder : its parts may hold tokens too, as ``maps/{colourway}``.

    Raises
    ------
    ReedError
        One sentence about the first thing that is wrong.
    """
    recipe = document.recipe
    flat = side_by_side(flats)
    width, height = check_size(recipe.size if size is None else size, flat.surface)
    format_id = format or recipe.format
    if format_id not in FORMATS:
        raise unknown("format", format_id, FORMATS)
    direction = normal_y or recipe.normal_y
    if direction not in NORMAL_Y:
        raise unknown("direction of normal Y", direction, NORMAL_Y)
    if not document.graph.ends:
        raise ReedError(
            "Nothing is tied to the map rail; tie an output to a map, such as height, and deliver again."
        )
    tied = next(iter(flats.values())).ends
    wanted = [get_channel(channel).id for channel in (tied if maps is None else maps)]
    for channel in wanted:
        if channel not in tied:
            raise unknown("tied map", channel, tied)
    template = _telling_apart(name or recipe.name, folder, len(flats))
    items: list[Item] = []
    for number, colourway in enumerate(flats):
        tokens = {
            "weave": plain_name(document.name),
            "colourway": plain_name(colourway or _put_on(document)),
            "size": str(width),
            "depth": format_id,
        }
        where = fill_folder(folder, tokens)
        for channel in (c for c in CHANNELS if c in wanted):
            file = fill_template(template, tokens | {"map": channel}) + FORMATS[format_id].suffix
            items.append(Item(flat.ends[beside(number, channel)], CHANNELS[channel], where / file))
    if len({item.path for item in items}) < len(items):
        token = "{map}" if len(flats) == 1 else "{map} and {colourway}"
        raise ReedError(f"The name template gives several maps one name; put {token} into it.")
    return Order(flat, plain_part(folder), (width, height), FORMATS[format_id], direction, tuple(items))


def _put_on(document: Document) -> str:
    """What the dials as they are turned are called: the colourway they show, if they still do."""
    worn = document.colourways.get(document.colourway)
    return worn.label if worn is not None and worn.values == document.settings else "as_it_is"


def _telling_apart(template: str, folder: Path, count: int) -> str:
    """A template that names the colourway, if there are several and neither it nor the folder does yet."""
    if count < 2 or "{colourway}" in template or "{colourway}" in str(folder):
        return template
    if "{weave}" in template:
        return template.replace("{weave}", "{weave}_{colourway}", 1)
    return "{colourway}_" + template


def dressed(
    document: Document, kinds: Kinds, colourways: Any = None, dials: dict[str, Any] | None = None
) -> dict[str, FlatGraph]:
    """A document resolved once for each of some colourways, by their names.

    Parameters
    ----------
    colourways : str, iterable of str or None
        Names or ids, or "all"; None for the dials as they are turned, under an empty name.

    Returns
    -------
    mapping of name to FlatGraph

    Raises
    ------
    ReedError
        If there is no such colourway or dial, or "all" are wanted and there are none.
    """
    if colourways is None:
        return {"": resolve(document, kinds, None, dials)}
    held = document.colourways
    if colourways == "all":
        if not held:
            raise ReedError(f"'{document.name}' has no colourways; deliver it as it is.")
        names: list[str] = list(held)
    else:
        names = [colourways] if isinstance(colourways, str) else list(colourways)
    keys = dict.fromkeys(find_by_name(held, name, "colourway") for name in names)
    return {held[key].label or key: resolve(document, kinds, key, dials) for key in keys}


def deliver_weave(
    document: Document,
    flats: Mapping[str, FlatGraph],
    folder: Path,
    *,
    overwrite: bool = True,
    stop: Stop | None = None,
    progress: Progress | None = None,
    **choices: object,
) -> Delivered:
    """Plan and carry out a delivery; see `plan_delivery` for the choices. Returns the files' paths."""
    return carry_out(plan_delivery(document, flats, folder, **choices), overwrite, stop, progress)  # type: ignore[arg-type]


def taken(order: Order) -> list[Path]:
    """The files that are there already and would be replaced.

    Raises
    ------
    FileError
        If the folder cannot be looked into, or a folder stands where a map is to be.
    """
    found = []
    for path in order.files:
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
    order: Order,
    overwrite: bool = True,
    stop: Stop | None = None,
    progress: Progress | None = None,
    keep: bool = False,
) -> Delivered:
    """Compute and write an order's files.

    keep : whether results stay in the cache, for other deliveries of the same weave.

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
        for folder in dict.fromkeys([order.folder, *(path.parent for path in order.files)]):
            folder.mkdir(parents=True, exist_ok=True)
        clear_leftovers(order.folder, HIDDEN, "")
        hidden, handle = fresh(order.folder, HIDDEN, "", is_folder=True)
    except (OSError, ValueError) as error:
        raise explain(error, order.folder, "deliver to") from None
    try:
        cut, notes = _write_all(order, hidden, stop or Stop(), progress, keep)
        for path in order.files:
            flush(hidden / _hidden_name(order, path))
        _move_in(order, hidden)
        for folder in {path.parent for path in order.files}:
            flush(folder)
    except OSError as error:
        raise explain(error, order.folder, "deliver to") from None
    finally:
        shutil.rmtree(hidden, ignore_errors=True)
        if handle is not None:
            os.close(handle)
    return Delivered(order.files, cut, notes)


def _hidden_name(order: Order, path: Path) -> str:
    """The name of a file until it is moved to its place: its path, since several folders may be filled."""
    return "-".join(path.relative_to(order.folder).parts)


def _move_in(order: Order, hidden: Path) -> None:
    """Put all new files in their places, or none: what they replace has a second name until all are there."""
    moved: list[tuple[Path, Path | None]] = []
    try:
        for path in order.files:
            name = _hidden_name(order, path)
            old = hidden / f"{OLD}{name}"
            try:
                os.link(path, old, follow_symlinks=False)
            except FileNotFoundError:
                moved.append((path, None))
            except OSError:  # a file system without hard links
                shutil.copy2(path, old)
                moved.append((path, old))
            else:
                moved.append((path, old))
            (hidden / name).replace(path)
    except BaseException:
        for path, kept in moved:
            with suppress(OSError):
                if kept is not None:
                    kept.replace(path)
                elif not (hidden / _hidden_name(order, path)).exists():
                    path.unlink(missing_ok=True)
        raise


def _write_all(
    order: Order, hidden: Path, stop: Stop, progress: Progress | None, keep: bool
) -> tuple[dict[Path, float], dict[str, tuple[str, ...]]]:
    """Compute and write all maps; how much of which was cut, where files hold only 0 to 1, and the notes."""
    wanted: dict[End, list[Item]] = {}
    for item in order.items:
        wanted.setdefault(item.end, []).append(item)
    writing: list[Future[None]] = []
    cut: dict[Path, float] = {}
    slots = threading.Semaphore(2)

    with ThreadPoolExecutor(2, thread_name_prefix="reedloom-write") as pool:

        def write(item: Item, array: np.ndarray) -> None:
            try:
                prepared = _prepare(array, item.channel, order.normal_y)
                path = hidden / _hidden_name(order, item.path)
                beyond = share_beyond(prepared) if order.format.whole else 0.0
                if beyond > 0:
                    cut[item.path] = beyond
                write_map(path, prepared, order.format, item.channel.srgb, stop=stop, shown=item.path)
            finally:
                slots.release()

        def take(end: End, array: np.ndarray) -> None:
            for item in wanted[end]:
                slots.acquire()  # no more than two maps wait to be written, which bounds the memory
                writing.append(pool.submit(write, item, array))

        def tell(share: float) -> None:
            if progress is not None:
                progress(share * 0.95)

        try:
            outcome = evaluate_ends(
                order.flat, wanted, order.size, keep=keep, stop=stop, progress=tell, take=take
            )
        except BaseException:
            stop.set()
            raise
        for node, reason in outcome.failures.items():
            stop.set()
            raise EvaluationError(node.partition(STEP)[2] or node, reason)
        for future in writing:
            future.result()
    stop.check()
    if progress is not None:
        progress(1.0)
    in_order = {path: cut[path] for path in order.files if path in cut}
    return in_order, _notes_by_title(order.flat, outcome.notes)


def _notes_by_title(flat: FlatGraph, notes: Mapping[str, tuple[str, ...]]) -> dict[str, tuple[str, ...]]:
    """What nodes say by their titles, each sentence once however many nodes of a title say it."""
    told: dict[str, dict[str, None]] = {}
    for node_id in flat.nodes.keys() & notes.keys():
        told.setdefault(flat.nodes[node_id].title, {}).update(dict.fromkeys(notes[node_id]))
    return {title: tuple(told[title]) for title in sorted(told)}


def share_beyond(array: np.ndarray) -> float:
    """The share of a map's numbers that lie below 0 or above 1, by more than a file could show.

    array : (H, W) or (H, W, 3) float32
    """
    count = 0
    for y in range(0, len(array), ROWS):  # a few rows at a time, which bounds the memory
        rows = array[y : y + ROWS]
        count += int(np.count_nonzero(rows < -TINY)) + int(np.count_nonzero(rows > 1 + TINY))
    return count / array.size


def _prepare(array: np.ndarray, channel: Channel, normal_y: str) -> np.ndarray:
    """A map as its channel holds it, normals turned to the wanted direction of Y."""
    array = convert(array, channel.data)
    if channel.id == "normal" and normal_y == "down":
        array = array.copy()
        array[..., 1] = 1 - array[..., 1]
    return array
