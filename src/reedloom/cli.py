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
@click.argument("file", type=click.Path(path_type=Path))
@click.option(
    "--size",
    type=int,
    help="Samples across, 1 to 8192, and as many down as keep them square; the weave's own by default.",
)
@click.option("--out", type=click.Path(path_type=Path), default=Path(), help="The folder to write to.")
@click.option("--format", "format_id", help="png8, png16, exr_half or exr_float.")
@click.option("--maps", help="Only these, parted by commas, such as height,normal.")
@click.option("--name", help="The name template, such as {weave}_{map}_{size}.")
@click.option("--normal-y", help="Whether green in normal maps means up or down.")
def render(
    file: Path,
    size: int | None,
    out: Path,
    format_id: str | None,
    maps: str | None,
    name: str | None,
    normal_y: str | None,
) -> None:
    """Write the map set of a weave."""
    weave = rl.open_weave(file)
    chosen = None if maps is None else [m.strip() for m in maps.split(",") if m.strip()]
    start = time.perf_counter()
    with progress_bar(f"Rendering {weave.document.name}") as tell:
        paths = rl.deliver(
            weave, out, size, format=format_id, maps=chosen, name=name, normal_y=normal_y, progress=tell
        )
    for path in paths:
        click.echo(os.fsencode(path))  # whatever bytes its name is made of
    click.echo(f"{len(paths)} maps in {time.perf_counter() - start:.1f} s", err=True)


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
