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


def test_render_tells_what_nodes_say_of_their_results(tmp_path: Path) -> None:
    weave = rl.Weave()
    weave.tie(weave.add("courses", rows=5), "height")
    rl.save_weave(weave, tmp_path / "quay.reed")
    done = call("render", tmp_path / "quay.reed", "--size", 32, "--out", tmp_path / "maps")
    assert done.exit_code == 0 and "Courses: 5 rows are snapped to 6" in done.output
    orders = tmp_path / "orders.json"
    orders.write_text(json.dumps({"orders": [{"weave": "quay.reed", "size": 32}]}))
    told = call("render", "--orders", orders).output
    assert "Courses: 5 rows are snapped to 6" in " ".join(told.split())


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


@pytest.fixture
def dialled(tmp_path: Path) -> Path:
    """A weave with dials of several types and two colourways."""
    weave = rl.Weave()
    disc, solid = weave.add("disc"), weave.add("solid")
    weave.tie(disc, "height")
    weave.tie(solid, "base_colour")
    weave.add_dial("rim", label="Rim width", type="length", default=0.3, useful=(0, 0.5), hard=(0, 1))
    weave.add_dial("tint", type="colour", default="#406070", help="The colour.")
    weave.follow(disc, "radius", "rim")
    weave.follow(solid, "colour", "tint")
    weave.keep_colourway("Wet clay", rim=0.1, tint="#203040")
    weave.keep_colourway("Dry clay", rim=0.4)
    weave.rename("Bowl")
    rl.save_weave(weave, tmp_path / "bowl.reed")
    return tmp_path / "bowl.reed"


def test_dials_are_listed_and_turned_and_colourways_rendered(dialled: Path, tmp_path: Path) -> None:
    said = call("dials", dialled).output
    assert "Rim width" in said and "0 to 0.5" in said and "rim=0.1" in said
    data = json.loads(call("dials", dialled, "--json").output)
    assert [d["id"] for d in data["dials"]] == ["rim", "tint"] and len(data["colourways"]) == 2
    out = tmp_path / "maps"
    done = call("render", dialled, "--size", 16, "--out", out / "{colourway}", "--all-colourways")
    assert done.exit_code == 0, done.output
    assert {p.name for p in out.iterdir()} == {"wet_clay", "dry_clay"}
    weave = rl.open_weave(dialled)
    got = read_map(out / "wet_clay" / "bowl_height.png")
    assert abs(got - rl.evaluate_maps(weave, 16, colourway="Wet clay")["height"]).max() < 1e-4
    typed = ["--dial", "rim width=1/4", "--dial", "tint=[0.5, 0.1, 0.2]", "--colourway", "dry clay"]
    done = call("render", dialled, "--size", 16, "--out", out, *typed, "--name", "{colourway}_{map}")
    assert done.exit_code == 0, done.output
    wanted = rl.evaluate_maps(weave, 16, dials={"rim": 0.25, "tint": (0.5, 0.1, 0.2)})
    assert abs(read_map(out / "dry_clay_height.png") - wanted["height"]).max() < 1e-4
    for args, reason in (
        (["--dial", "rin=1"], "no dial 'rin'"),
        (["--dial", "rim=9"], "cannot be 9"),
        (["--dial", "rim"], "turns no dial"),
        (["--colourway", "Wett"], "no colourway 'Wett'"),
        (["--orders", dialled], "not both"),
    ):
        done = call("render", dialled, *args)
        assert done.exit_code == 1 and reason in done.output and "Traceback" not in done.output


def test_orders_deliver_a_project_and_one_that_fails_costs_only_itself(dialled: Path, tmp_path: Path) -> None:
    orders = tmp_path / "orders.json"
    entries = [
        {"weave": "bowl.reed", "colourway": "all", "size": 16, "maps": ["height"]},
        {"weave": "gone.reed"},
        {
            "weave": "bowl.reed",
            "dials": {"Rim width": 0.2},
            "size": 8,
            "name": "small_{map}",
            "folder": "small",
        },
        {"weave": "bowl.reed", "colourway": "Blue"},
    ]
    orders.write_text(json.dumps({"format": "reed-loom-orders", "version": "1.0", "orders": entries}))
    done = call("render", "--orders", orders)
    assert done.exit_code == 1 and "2 of 4 orders delivered" in done.output
    assert "no such file" in done.output and "no colourway 'Blue'" in done.output
    made = {str(p.relative_to(tmp_path)) for p in tmp_path.rglob("*.png")}
    assert made == {
        "maps/bowl_wet_clay_height.png",
        "maps/bowl_dry_clay_height.png",
        "small/small_height.png",
        "small/small_base_colour.png",
    }
    orders.write_text(json.dumps({"orders": entries[:1]}))
    assert call("render", "--orders", orders).exit_code == 0
    for text, reason in (
        ("{", "not whole JSON"),
        ('{"orders": []}', "0 orders"),
        ('{"orders": [{"weave": "a", "sise": 3}]}', "no field 'sise' of an order"),
        ('{"orders": [{"weave": 3}]}', "orders"),
        ('{"format": "x", "orders": []}', "reed-loom-orders"),
    ):
        orders.write_text(text)
        done = call("render", "--orders", orders)
        assert done.exit_code == 1 and reason in done.output, done.output


def test_the_published_schema_of_orders_is_the_codes() -> None:
    from reedloom.delivery.orders import json_schema

    published = Path(__file__).parents[1] / "docs" / "orders.schema.json"
    assert json.loads(published.read_text()) == json.loads(json.dumps(json_schema()))


def test_thumbnails_hold_what_the_standard_wants(
    dialled: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    import hashlib
    import zlib

    target = tmp_path / "thumb.png"
    assert call("thumbnail", dialled, target, "--size", 64).exit_code == 0
    data = target.read_bytes()
    uri = dialled.as_uri()
    assert b"Thumb::URI\0" + uri.encode() in data
    assert b"Thumb::MTime\0" + str(int(dialled.stat().st_mtime)).encode() in data
    assert data[16:24] == (64).to_bytes(4, "big") * 2 and zlib.crc32(b"IEND") in {
        int.from_bytes(data[-4:], "big")
    }
    from reedloom.delivery import thumbnails

    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    wanted = tmp_path / "cache" / "thumbnails" / "large" / f"{hashlib.md5(uri.encode()).hexdigest()}.png"
    assert thumbnails.thumbnail_path(dialled) == wanted
    thumbnails.note_failure(dialled)
    assert len(list((tmp_path / "cache" / "thumbnails" / "fail").rglob("*.png"))) == 1
    broken = tmp_path / "broken.reed"
    broken.write_text("{}")
    assert call("thumbnail", broken, target).exit_code == 1
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    assert call("integrate").exit_code == 0
    assert (tmp_path / "share" / "thumbnailers" / "reedloom.thumbnailer").exists()
