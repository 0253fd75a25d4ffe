"""Orders: a file that names many deliveries, for a whole project at once; see docs/orders.schema.json.

One order that fails does not stop the others. What orders of one weave share is computed once, as far as
the memory for kept results goes.
"""

from __future__ import annotations

import json
import logging
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct, field

from reedloom.delivery.recipe import Delivered, carry_out, dressed, plan_delivery
from reedloom.errors import Cancelled, FileError, ReedError, unknown
from reedloom.files import home_path, read_whole
from reedloom.kernels.jit import Stop
from reedloom.kinds.catalogue import Kinds, all_kinds
from reedloom.weave.document import Document
from reedloom.weave.fileformat import load_document

log = logging.getLogger(__name__)
FORMAT, VERSION = "reed-loom-orders", "1.0"
SIZE_LIMIT, ORDER_LIMIT = 4 * 2**20, 10_000
Tell = Callable[[int, float], None]
"""Told how far an order is: its number from 0, and a share from 0 to 1."""


class FileOrder(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """One order as the file holds it; what is not given is as in the weave's own recipe.

    Attributes
    ----------
    weave : str
        A `.reed` file; relative to the orders' own file.
    colourway : str or None
        The id or name of one, or "all"; the dials as they are turned in the weave if not given.
    dials : mapping
        Values of dials by id or label, which go before the colourway's.
    folder : str
        Where to write to, relative to the orders' own file; its parts may hold ``{colourway}``.
    """

    weave: str
    colourway: str | None = None
    dials: dict[str, Any] = field(default_factory=dict)
    size: int | None = None
    format: str | None = None
    maps: list[str] | None = None
    name: str | None = None
    normal_y: str | None = None
    folder: str | None = None


class FileOrders(Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The whole file; `folder` is where orders go that name none."""

    orders: list[FileOrder]
    format: str = FORMAT
    version: str = VERSION
    folder: str = "maps"


class Done(Struct):
    """What became of one order."""

    order: FileOrder
    paths: Delivered = field(default_factory=lambda: Delivered((), {}, {}))
    seconds: float = 0.0
    trouble: str = ""


def json_schema() -> dict[str, Any]:
    """The JSON Schema of a file of orders, generated from its declaration."""
    return {"title": "Reed Loom orders", **msgspec.json.schema(FileOrders)}


def read_orders(path: Path) -> FileOrders:
    """Read a file of orders.

    Raises
    ------
    FileError
        One sentence that names the file, the place in it and the trouble.
    """
    data = read_whole(path, SIZE_LIMIT)
    try:
        raw = json.loads(data)
    except (ValueError, RecursionError) as error:
        raise FileError(f"Cannot read the orders in '{path}': it is not whole JSON ({error}).") from None
    if not isinstance(raw, dict) or raw.get("format", FORMAT) != FORMAT:
        raise FileError(f"Cannot read the orders in '{path}': its field 'format' is not '{FORMAT}'.")
    for number, entry in enumerate(raw["orders"] if isinstance(raw.get("orders"), list) else ()):
        for name in entry if isinstance(entry, dict) else ():
            if name not in FileOrder.__struct_fields__:
                wrong = unknown("field", name, FileOrder.__struct_fields__, f"of an order (orders.{number})")
                raise FileError(f"Cannot read the orders in '{path}': {wrong}")
    try:
        orders = msgspec.convert(raw, FileOrders)
    except msgspec.ValidationError as error:
        raise FileError(f"Cannot read the orders in '{path}': {str(error).replace('`', chr(39))}.") from None
    if not 1 <= len(orders.orders) <= ORDER_LIMIT:
        raise FileError(f"'{path}' has {len(orders.orders)} orders; there can be 1 to {ORDER_LIMIT}.")
    return orders


def carry_out_orders(
    orders: FileOrders,
    home: Path,
    *,
    kinds: Kinds | None = None,
    stop: Stop | None = None,
    tell: Tell | None = None,
) -> Iterator[Done]:
    """Deliver one order after the other; what fails is told in what is given, and the rest goes on.

    Parameters
    ----------
    home : Path
        The folder of the orders' file.
    tell : callable, optional
        Told how far an order is: its number, and a share from 0 to 1.

    Raises
    ------
    Cancelled
        When `stop` was set.
    """
    every, stop = kinds or all_kinds(), stop or Stop()
    opened: dict[Path, Document] = {}
    count = Counter(order.weave for order in orders.orders)
    for number, order in enumerate(orders.orders):
        done, start = Done(order), time.perf_counter()

        def progress(share: float, number: int = number) -> None:
            if tell is not None:
                tell(number, share)

        try:
            document = _opened(home / home_path(order.weave), opened, every)
            flats = dressed(document, every, order.colourway, order.dials)
            folder = home / home_path(order.folder or orders.folder)
            planned = plan_delivery(
                document, flats, folder, size=order.size, format=order.format, maps=order.maps,
                name=order.name, normal_y=order.normal_y,
            )  # fmt: skip
            done.paths = carry_out(planned, True, stop, progress, keep=count[order.weave] > 1)
        except Cancelled:
            raise
        except ReedError as error:
            done.trouble = str(error)
        except Exception as error:  # whatever goes wrong in one order must not cost the others
            log.exception("the order %s of %s failed", number, order.weave)
            done.trouble = f"something unforeseen went wrong ({type(error).__name__}: {error})."
        done.seconds = time.perf_counter() - start
        yield done


def _opened(path: Path, opened: dict[Path, Document], kinds: Kinds) -> Document:
    if path not in opened:
        opened[path] = load_document(path, kinds)
    return opened[path]
