"""The house rules: imports point down, the core needs no Qt, importing is light, texts are whole."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import pytest

SOURCE = Path(__file__).resolve().parents[1] / "src" / "reedloom"
ROOMS = [
    "cli",
    "desk",
    "api",
    "delivery",
    "laws",
    "loom",
    "preview",
    "lit",
    "weave",
    "kinds",
    "kit",
    "kernels",
    "picture_files",
    "picture_decoder",
    "logs",
    "arguments",
    "files",
    "data",
    "errors",
]
"""From the top down; nothing imports anything above it."""


def room_of(path: Path) -> str:
    return path.relative_to(SOURCE).parts[0].removesuffix(".py")


def imports_of(path: Path) -> set[str]:
    """The modules a file imports at run time."""
    tree = ast.parse(path.read_text())
    for node in ast.walk(tree):
        if isinstance(node, ast.If) and "TYPE_CHECKING" in ast.dump(node.test):
            node.body = []
    found = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom) and node.module:
            found.add(node.module)
    return found


MODULES = [
    pytest.param(p, id=str(p.relative_to(SOURCE)))
    for p in sorted(SOURCE.rglob("*.py"))
    if p.parent != SOURCE or p.name != "__init__.py"
]


@pytest.mark.parametrize("path", MODULES)
def test_imports_point_down(path: Path) -> None:
    here = ROOMS.index(room_of(path))
    for module in imports_of(path):
        parts = module.split(".")
        if parts[0] == "PySide6":
            assert room_of(path) == "desk", f"{path} imports {module}"
        if parts[0] == "reedloom" and len(parts) > 1 and room_of(path) != "cli":
            assert ROOMS.index(parts[1]) >= here, f"{path} imports {module} from above"


@pytest.mark.parametrize("path", MODULES)
def test_modules_say_their_job_and_stay_small(path: Path) -> None:
    text = path.read_text()
    first = (ast.get_docstring(ast.parse(text)) or "").split("\n")[0]
    assert first.endswith("."), f"{path} does not say its job in its first line"
    assert len(text.splitlines()) <= 620


@pytest.mark.parametrize("path", MODULES)
def test_records_are_structs(path: Path) -> None:
    assert "dataclass" not in path.read_text(), f"{path} has a dataclass; each takes a millisecond of a start"


def loaded_after(code: str) -> set[str]:
    """The top-level packages loaded by a fresh process."""
    script = f"import sys\n{code}\nprint(' '.join({{m.split('.')[0] for m in sys.modules}}))"
    done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
    return set(done.stdout.split())


def test_importing_is_light() -> None:
    assert not loaded_after("import reedloom") & {
        "numpy",
        "numba",
        "PySide6",
        "moderngl",
        "OpenImageIO",
        "scipy",
    }
    assert not loaded_after("import reedloom as rl; rl.kinds(); rl.Weave().add('blur')") & {
        "numba",
        "PySide6",
        "moderngl",
    }


def test_the_core_works_without_qt(tmp_path: Path) -> None:
    code = f"""
sys.modules['PySide6'] = None
import reedloom as rl
weave = rl.Weave()
weave.tie(weave.add('gradient_noise'), 'height')
assert rl.deliver(weave, {str(tmp_path)!r}, 32)[0].exists()
assert callable(rl.kinds) and callable(rl.deliver)
"""
    assert "PySide6" in loaded_after(code)  # the marker that refuses it, and nothing of it
    assert list(tmp_path.iterdir())


@pytest.mark.parametrize("path", [m for m in MODULES if room_of(*m.values) in ("api", "weave", "kernels")])
def test_entry_points_with_many_arguments_say_what_they_take(path: Path) -> None:
    """A docstring's sections, for all that takes four arguments or more and is open to other modules."""
    body = ast.parse(path.read_text()).body
    methods = [m for c in body if isinstance(c, ast.ClassDef) and c.name[0] != "_" for m in c.body]
    for function in (*body, *methods):
        if not isinstance(function, ast.FunctionDef) or function.name.startswith("_"):
            continue
        if any(isinstance(d, ast.Name) and d.id == "inlined" for d in function.decorator_list):
            continue
        given = [
            a.arg for a in (*function.args.args, *function.args.kwonlyargs) if a.arg not in ("self", "cls")
        ]
        if len(given) > 3:
            assert "----" in (ast.get_docstring(function) or ""), f"{path}: {function.name}"


SCALAR = {
    ("cells", "cell_rows"),
    ("fills", "fill_rows"),
    ("growth", "reach_out"),
    ("growth", "weigh"),
    ("morphology", "run_rows"),
    ("scatter", "throw_darts"),
    ("spacing", "keep_apart"),
    ("stroke_pieces", "near_piece"),
}
"""Kernels whose innermost loop cannot become vectors anyway, or gained nothing by it when it was tried: each
step hangs on the one before, searches, or calls another kernel."""


def signed_starts(function: ast.FunctionDef) -> list[str]:
    """The ranges of innermost loops that begin at what may be below 0, for all that the compiler knows."""
    found = []
    for loop in ast.walk(function):
        if not isinstance(loop, ast.For) or not isinstance(loop.iter, ast.Call):
            continue
        within = (node for part in loop.body for node in ast.walk(part))
        if ast.unparse(loop.iter.func) != "range" or any(isinstance(n, (ast.For, ast.While)) for n in within):
            continue
        start = loop.iter.args[0]
        is_known = len(loop.iter.args) == 1 or isinstance(start, (ast.Constant, ast.UnaryOp))
        if not is_known and "uint64" not in ast.unparse(start):
            found.append(ast.unparse(loop.iter))
    return found


@pytest.mark.parametrize("path", [m for m in MODULES if room_of(*m.values) in ("kernels", "kinds")])
def test_innermost_loops_of_kernels_begin_at_nothing_that_may_be_below_0(path: Path) -> None:
    """Such an index might count from the end, which keeps a loop from vectors; that has cost five times.

    `range(np.uint64(a), np.uint64(b))` says that it does not.
    """
    for function in ast.walk(ast.parse(path.read_text())):
        if not isinstance(function, ast.FunctionDef) or (path.stem, function.name) in SCALAR:
            continue
        marks = {d.id for d in function.decorator_list if isinstance(d, ast.Name)}
        if marks & {"kernel", "inlined"}:
            assert not signed_starts(function), f"{path.stem}.{function.name}"


def test_every_loop_that_may_begin_below_0_is_still_there() -> None:
    found = {
        (path.stem, function.name)
        for room in ("kernels", "kinds")
        for path in (SOURCE / room).rglob("*.py")
        for function in ast.walk(ast.parse(path.read_text()))
        if isinstance(function, ast.FunctionDef) and function.decorator_list and signed_starts(function)
    }
    assert found >= SCALAR
