"""The command line: open the workbench, render map sets, list the node kinds, run the benchmarks."""

from __future__ import annotations

import json
import os
import sys
import time
import warnings
from collections.abc import Callable
from pathlib import Path
from typing import Any

import click

import reedloom as rl
from reedloom.data import shipped_weave
from reedloom.errors import ReedError
from reedloom.files import reason_of

DEMO = "lakebed-clay"


class ReedGroup(click.Group):
    """Commands by name; anything else is taken for a file to open in the workbench."""

    def resolve_command(self, ctx: click.Context, args: list[str]) -> Any:
        if args and args[0] not in self.commands:
            return "open", self.commands["open"], args
        return super().resolve_command(ctx, args)

    def invoke(self, ctx: click.Context) -> Any:
        try:
            return super().invoke(ctx)
        except ReedError as error:
            raise click.ClickException(str(error)) from None

    def main(self, *args: Any, **more: Any) -> Any:
        warnings.simplefilter("ignore", RuntimeWarning)  # of NumPy, of numbers that are held finite anyway
        try:
            return super().main(*args, **more)
        except OSError as error:  # of the terminal or pipe behind the output; a closed one is click's own
            place = f"'{error.filename}' cannot be used" if error.filename else "The output cannot be written"
            click.echo(f"Error: {place}: {reason_of(error)}.", err=True)
            sys.exit(1)


@click.group(cls=ReedGroup, invoke_without_command=True)
@click.version_option(rl.__version__, prog_name="Reed Loom")
@click.pass_context
def main(ctx: click.Context) -> None:
    """Reed Loom: procedural texture graphs that end in tileable PBR map sets.

    Without a command, or with a FILE alone, it opens the workbench.
    """
    if ctx.invoked_subcommand is None:
        _open_workbench(None)


@main.command("open", hidden=True)
@click.argument("file", type=click.Path(path_type=Path))
def open_file(file: Path) -> None:
    """Open a weave in the workbench."""
    if not _is_there(file) and file.suffix != ".reed":
        raise ReedError(
            f"There is no command or file '{file}'; use a .reed file, "
            f"or one of: {', '.join(_shown_commands())}."
        )
    _open_workbench(file)


@main.command()
def demo() -> None:
    """Open the workbench with a copy of the demo weave."""
    _open_workbench(shipped_weave(DEMO), as_copy=True)


def _is_there(file: Path) -> bool:
    try:
        return file.exists()
    except (OSError, ValueError):
        return False  # too long a name, or none that could be one


def _shown_commands() -> list[str]:
    return sorted(name for name, command in main.commands.items() if not command.hidden)


def _open_workbench(file: Path | None, as_copy: bool = False) -> None:
    try:
        from reedloom.desk.frame.app import run_workbench
    except ImportError as error:
        raise ReedError(
            f"The workbench needs PySide6 and its system libraries ({error}); install 'reedloom[window]', "
            "or use 'reedloom render'."
        ) from None
    sys.exit(run_workbench(file, as_copy))


@main.command()
@click.argument("file", type=click.Path(path_type=Path), required=False)
@click.option(
    "--size",
    type=int,
    help="Samples across, 1 to 8192, and as many down as keep them square; the weave's own by default.",
)
@click.option("--out", type=click.Path(path_type=Path), default=Path(), help="The folder to write to.")
@click.option("--format", "format_id", help="png8, png16, exr_half or exr_float.")
@click.option("--maps", help="Only these, parted by commas, such as height,normal.")
@click.option("--name", help="The name template, such as {weave}_{colourway}_{map}.")
@click.option("--normal-y", help="Whether green in normal maps means up or down.")
@click.option("--colourway", "colourways", multiple=True, help="A colourway by its name; may be repeated.")
@click.option("--all-colourways", is_flag=True, help="Every colourway of the weave.")
@click.option("--dial", "dials", multiple=True, metavar="NAME=VALUE", help="Turn a dial; may be repeated.")
@click.option("--orders", type=click.Path(path_type=Path), help="A file that names many deliveries.")
def render(
    file: Path | None,
    *,
    size: int | None,
    out: Path,
    format_id: str | None,
    maps: str | None,
    name: str | None,
    normal_y: str | None,
    colourways: tuple[str, ...],
    all_colourways: bool,
    dials: tuple[str, ...],
    orders: Path | None,
) -> None:
    """Write the map set of a weave, of some of its colourways, or all that a file of orders names."""
    if (file is None) == (orders is None):
        raise ReedError("Give a weave to render, or a file of orders with --orders, and not both.")
    if orders is not None:
        _render_orders(orders)
        return
    assert file is not None
    weave = rl.open_weave(file)
    chosen = None if maps is None else [m.strip() for m in maps.split(",") if m.strip()]
    wanted = "all" if all_colourways else (colourways or None)
    start = time.perf_counter()
    with progress_bar(f"Rendering {weave.document.name}") as tell:
        paths = rl.deliver(
            weave, out, size, format=format_id, maps=chosen, name=name, normal_y=normal_y,
            colourways=wanted, dials=_dial_values(weave, dials), progress=tell,
        )  # fmt: skip
    for path in paths:
        click.echo(os.fsencode(path))  # whatever bytes its name is made of
    for sentence in paths.told():
        click.echo(sentence, err=True)
    click.echo(f"{len(paths)} maps in {time.perf_counter() - start:.1f} s", err=True)


def _dial_values(weave: rl.Weave, given: tuple[str, ...]) -> dict[str, Any]:
    """Values of dials as they are typed: a number or arithmetic, a word, or JSON."""
    from reedloom.weave.dials import find_by_name, read_value

    values: dict[str, Any] = {}
    for text in given:
        name, sign, value = text.partition("=")
        if not sign:
            raise ReedError(f"'{text}' turns no dial; write --dial NAME=VALUE.")
        key = find_by_name(weave.document.dials, name.strip(), "dial")
        values[key] = read_value(key, weave.document.dials[key], value.strip())
    return values


def _render_orders(path: Path) -> None:
    from rich.console import Console
    from rich.table import Table

    from reedloom.delivery.orders import carry_out_orders, read_orders

    orders = read_orders(path)
    table = Table("order", "weave", "colourway", "files", "seconds", "result", box=None)
    failed = 0
    with progress_bar(f"Rendering {len(orders.orders)} orders") as tell:

        def told(number: int, share: float) -> None:
            tell((number + share) / len(orders.orders))

        for number, done in enumerate(carry_out_orders(orders, path.absolute().parent, tell=told)):
            failed += bool(done.trouble)
            row = (
                str(number + 1),
                done.order.weave,
                done.order.colourway or "as it is",
                str(len(done.paths)),
            )
            result = done.trouble or " ".join(["delivered.", *done.paths.told()])
            table.add_row(*row, f"{done.seconds:.1f}", result)
    Console(soft_wrap=True).print(table)
    click.echo(f"{len(orders.orders) - failed} of {len(orders.orders)} orders delivered.", err=True)
    if failed:
        sys.exit(1)


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.option("--json", "as_json", is_flag=True, help="All of each dial and colourway, for other programs.")
def dials(file: Path, as_json: bool) -> None:
    """List the dials of a weave, how they are turned, and its colourways."""
    import msgspec

    document = rl.open_weave(file).document
    held = document.dials
    if as_json:
        plain = {
            "dials": [{"id": key, **msgspec.to_builtins(dial)} for key, dial in held.items()],
            "settings": msgspec.to_builtins(document.settings),
            "colourways": [{"id": k, **msgspec.to_builtins(way)} for k, way in document.colourways.items()],
        }
        for part in (*plain["dials"], *plain["colourways"]):
            part.pop("extras")
        click.echo(json.dumps(plain, indent=2, ensure_ascii=False))
        return
    if not held:
        click.echo("This weave has no dials.", err=True)
    for key, dial in held.items():
        present = _short(document.settings.get(key, dial.default))
        click.echo(f"{key:22} {dial.label:22} {present:24} {_span(dial):24} {dial.help}")
    for key, way in document.colourways.items():
        told = ", ".join(f"{name}={_short(value)}" for name, value in way.values.items())
        click.echo(f"{key:22} {way.label:22} colourway: {told}")


def _span(dial: Any) -> str:
    """What a dial can be, in short."""
    if dial.choices:
        return ", ".join(dial.choices)
    if isinstance(dial.default, bool) or not isinstance(dial.default, (int, float)):
        return str(dial.type)
    return f"{dial.useful[0]:g} to {dial.useful[1]:g} {dial.unit}".strip()


def _short(value: Any) -> str:
    return f"{value:.4g}" if isinstance(value, float) else str(value)


class progress_bar:  # noqa: N801 - used like a function
    """A progress bar on the terminal; `with progress_bar(...) as tell: tell(0.5)`."""

    def __init__(self, title: str) -> None:
        from rich.console import Console
        from rich.progress import Progress

        self._bar = Progress(console=Console(stderr=True), transient=True)
        self._task = self._bar.add_task(title, total=1.0)

    def __enter__(self) -> Callable[[float], None]:
        self._bar.start()
        return lambda share: self._bar.update(self._task, completed=share)

    def __exit__(self, *trouble: object) -> None:
        self._bar.stop()


@main.command()
@click.option("--json", "as_json", is_flag=True, help="All of each declaration, for other programs.")
def kinds(as_json: bool) -> None:
    """List the node kinds."""
    if as_json:
        click.echo(json.dumps([describe_kind(kind) for kind in rl.kinds()], indent=2, ensure_ascii=False))
        return
    for kind in rl.kinds():
        click.echo(f"{kind.id:18} {kind.family:8} {kind.purpose}")


def describe_kind(kind: Any) -> dict[str, Any]:
    """A declaration as plain data."""

    def port(p: Any) -> dict[str, Any]:
        carries = getattr(p.data, "word", None) or "as " + " or ".join(p.data.ports)
        return {"name": p.name, "data": carries, "optional": p.optional, "help": p.help}

    def parameter(p: Any) -> dict[str, Any]:
        plain: dict[str, Any] = {"name": p.name, "label": p.title, "type": p.word, "default": p.default}
        if p.is_number:
            plain |= {"useful": p.useful, "hard": p.hard, "unit": p.unit}
        if p.words:
            plain["choices"] = p.words
        return plain | {"help": p.help}

    return {
        "id": kind.id,
        "label": kind.label,
        "family": kind.family,
        "version": kind.version,
        "purpose": kind.purpose,
        "inputs": [port(p) for p in kind.inputs],
        "outputs": [port(p) for p in kind.outputs],
        "parameters": [parameter(p) for p in kind.parameters],
    }


@main.command()
@click.argument("file", type=click.Path(path_type=Path))
@click.argument("out", type=click.Path(path_type=Path))
@click.option("--size", type=click.IntRange(16, 1024), default=256, help="Samples along the longer side.")
def thumbnail(file: Path, out: Path, size: int) -> None:
    """Write a small picture of a weave, as file managers ask for it."""
    from reedloom.delivery.thumbnails import make_thumbnail

    make_thumbnail(file, out, size)


@main.command()
def integrate() -> None:
    """Let the desktop know weaves: their type, the workbench, and their thumbnails, for this user."""
    from reedloom.data import FOLDER
    from reedloom.files import explain

    root = Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")
    places = {
        "reedloom.xml": root / "mime" / "packages",
        "reedloom.thumbnailer": root / "thumbnailers",
        "reedloom.desktop": root / "applications",
    }
    for name, folder in places.items():
        try:
            folder.mkdir(parents=True, exist_ok=True)
            (folder / name).write_bytes((FOLDER / "desktop" / name).read_bytes())
        except OSError as error:
            raise explain(error, folder / name, "write") from None
        click.echo(str(folder / name))
    click.echo("Run 'update-mime-database' on the folder of types, or log in anew, to see them.", err=True)


@main.command()
def warm() -> None:
    """Compile all kernels, so that the first evaluation need not."""
    from reedloom.loom.warming import warm_kernels

    with progress_bar("Compiling kernels") as tell:
        seconds = warm_kernels(tell)
    click.echo(f"Kernels are ready ({seconds:.1f} s).", err=True)


@main.command()
@click.argument("folder", type=click.Path(path_type=Path, exists=True, file_okay=False))
def check(folder: Path) -> None:
    """Ask every law and promise of the kinds that a FOLDER of yours declares."""
    from reedloom.kinds.catalogue import built_in_kinds, read_folder
    from reedloom.laws.examine import examine

    known = built_in_kinds()
    found = read_folder(folder, known)
    for unreadable in found.unreadable:
        click.echo(unreadable.reason)
    own = [kind for kind in found if kind.id not in known]
    troubles = len(found.unreadable)
    for finding in examine(own):
        troubles += bool(finding.trouble)
        if finding.trouble:
            click.echo(f"{finding.kind.id}: {finding.rule}\n    {finding.trouble}")
    click.echo(f"{len(own)} kinds examined, {troubles} findings.", err=True)
    if troubles:
        sys.exit(1)


@main.command()
@click.option("--only", help="Only the benchmarks whose name holds this text.")
def bench(only: str | None) -> None:
    """Time the engine beside public libraries and print the ratios."""
    folder = Path(__file__).resolve().parents[2] / "benchmarks"
    if not (folder / "run.py").exists():
        raise ReedError(
            "The benchmarks are part of the source tree; clone the repository and run './run bench'."
        )
    sys.path.insert(0, str(folder.parent))
    from benchmarks.run import run_benchmarks  # type: ignore[import-not-found,unused-ignore]

    run_benchmarks(only)


if __name__ == "__main__":
    main()
