"""The command line, as its users call it."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from click.testing import CliRunner, Result

import reedloom as rl
from reedloom.cli import main
from reedloom.picture_files import read_map


@pytest.fixture
def file(tmp_path: Path) -> Path:
    """A small weave's file."""
    weave = rl.Weave()
    weave.tie(weave.add("disc"), "height")
    weave.tie(weave.add("number"), "roughness")
    rl.save_weave(weave, tmp_path / "bowl.reed")
    return tmp_path / "bowl.reed"


def call(*args: object) -> Result:
    return CliRunner().invoke(main, [str(a) for a in args])


def test_render_writes_what_is_asked(file: Path, tmp_path: Path) -> None:
    done = call(
        "render", file, "--size", 32, "--out", tmp_path / "maps", "--format", "exr_half", "--maps", "height"
    )
    assert done.exit_code == 0, done.output
    assert [p.name for p in (tmp_path / "maps").iterdir()] == ["untitled_height.exr"]
    assert read_map(tmp_path / "maps" / "untitled_height.exr").shape == (32, 32)


def test_kinds_lists_every_kind_in_words_and_as_data() -> None:
    lines = call("kinds").output.splitlines()
    assert len(lines) == len(rl.kinds())
    data = {k["id"]: k for k in json.loads(call("kinds", "--json").output)}
    assert data["blur"]["parameters"][0]["hard"] == [0, 0.5]
    assert data["blend"]["outputs"][0]["data"] == "as below or above"


@pytest.mark.parametrize(
    ("args", "said"),
    [
        (["render", "gone.reed"], "no such file"),
        (["render", "FILE", "--size", "0"], "from 1 to 8192"),
        (["render", "FILE", "--format", "gif"], "no format 'gif'"),
        (["render", "FILE", "--maps", "depth"], "no map 'depth'"),
        (["rendr"], "no command or file 'rendr'"),
        (["render", "FILE", "--out", "/proc/nowhere"], "Cannot deliver to"),
    ],
)
def test_errors_are_one_sentence_and_a_non_zero_exit(args: list[str], said: str, file: Path) -> None:
    done = call(*[file if a == "FILE" else a for a in args])
    assert done.exit_code == 1
    assert said in done.output
    last = [line for line in done.output.splitlines() if line.strip()]
    assert last[-1].startswith("Error: ") and last[-1].endswith(".")
    assert "Traceback" not in done.output


def test_without_a_display_it_says_what_to_do(monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM"):
        monkeypatch.delenv(name, raising=False)
    done = call("demo")
    assert done.exit_code == 1 and "./run pictures" in done.output and "virtual" in done.output


def run_alone(*words: str, output: str | None = None, **places: str) -> subprocess.CompletedProcess[str]:
    """The command in a process of its own, with its output into a file."""
    with Path(output or os.devnull).open("w", encoding="utf-8") as sink:
        return subprocess.run(
            [sys.executable, "-m", "reedloom.cli", *words],
            stdout=sink, stderr=subprocess.PIPE, text=True, check=False, env=os.environ | places, timeout=120,
        )  # fmt: skip


@pytest.mark.parametrize("words", [("kinds",), ("--version",), ("--help",)])
def test_a_full_disk_behind_the_output_is_a_sentence(words: tuple[str, ...]) -> None:
    done = run_alone(*words, output="/dev/full")
    assert done.returncode == 1 and "the disk is full" in done.stderr and "Traceback" not in done.stderr


def test_a_display_that_cannot_be_reached_is_a_sentence() -> None:
    done = run_alone("demo", DISPLAY=":7654", QT_QPA_PLATFORM="", WAYLAND_DISPLAY="nowhere")
    assert done.returncode == 1
    assert "cannot be reached (WAYLAND_DISPLAY=nowhere or DISPLAY=:7654)" in done.stderr


@pytest.mark.parametrize(
    "words", [("x" * 4000,), ("render", "x" * 4000), ("render", "/dev/zero"), ("render", "/")]
)
def test_paths_that_are_none_are_sentences(words: tuple[str, ...]) -> None:
    done = CliRunner().invoke(main, words)
    assert done.exit_code == 1 and done.output.startswith("Error: ") and len(done.output) < 900


def test_kernels_that_cannot_be_kept_cost_no_result(tmp_path: Path) -> None:
    (tmp_path / "file").touch()
    weave = rl.Weave()
    weave.tie(weave.add("number", value=0.5), "height")
    weave.tie(weave.add("invert"), "roughness")
    weave.connect("number_1", "invert_1")
    rl.save_weave(weave, tmp_path / "a.reed")
    out = str(tmp_path / "maps")
    place = {"REEDLOOM_CACHE": str(tmp_path / "file" / "x")}
    done = run_alone("render", str(tmp_path / "a.reed"), "--size", "8", "--out", out, **place)
    assert done.returncode == 0 and len(list(Path(out).iterdir())) == 2
    assert "Traceback" not in done.stderr
    code = "from reedloom.kernels.jit import mark_warm; mark_warm()"
    told = subprocess.run([sys.executable, "-c", code], stderr=subprocess.PIPE, text=True, check=False,
                          env=os.environ | place)  # fmt: skip
    assert "FileError: The compiled kernels could not be kept" in told.stderr
