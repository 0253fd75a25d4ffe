"""Files that are wrong get one clear sentence; saving is whole or not at all."""

from __future__ import annotations

import json
import os
import resource
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom.data import FOLDER, shipped_weave
from reedloom.laws.draws import flow_of
from reedloom.weave.fileformat import SIZE_LIMIT, decode_document, encode_document, json_schema

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def plain() -> dict[str, Any]:
    """A small whole file as data."""
    weave = rl.Weave()
    noise = weave.add("gradient_noise", cells=7)
    weave.connect(noise, weave.add("blur"))
    weave.tie("blur_1", "height")
    data: dict[str, Any] = json.loads(encode_document(weave.document))
    return data


def changed(plain: dict[str, Any], path: str, value: Any) -> bytes:
    """The file with one place changed; a value of None takes it away."""
    *way, last = path.split("/")
    part = plain
    for key in way:
        part = part[key]
    if value is None:
        del part[last]
    else:
        part[last] = value
    return json.dumps(plain).encode()


WRONG = [
    ("nodes/blur_1/kind", 7, "nodes", "expected a text"),
    ("nodes/blur_1/kind", None, "nodes", "missing required field 'kind'"),
    ("nodes/blur_1/version", 0, "nodes.blur_1", "no version"),
    ("nodes/blur_1/inputs/map", "gradient_noise_1.nose", "nodes.blur_1.inputs.map", "no output 'nose'"),
    ("nodes/blur_1/inputs/map", "gone.noise", "nodes.blur_1.inputs.map", "no node 'gone'"),
    ("nodes/blur_1/inputs/mop", "gradient_noise_1", "nodes.blur_1.inputs.mop", "no input 'mop'"),
    ("nodes/blur_1/inputs/map", "blur_1.map", "", "circle"),
    ("nodes/gradient_noise_1/inputs", {"place": "blur_1.map"}, "", "circle"),
    ("nodes/gradient_noise_1/parameters/cells", -3, "nodes.gradient_noise_1", "from 1 to 4096"),
    ("nodes/gradient_noise_1/parameters/cells", 2.5, "nodes.gradient_noise_1", "whole number"),
    ("nodes/gradient_noise_1/parameters/cellz", 2, "nodes.gradient_noise_1", "no parameter 'cellz'"),
    ("nodes/gradient_noise_1/parameters/cells", "six", "nodes.gradient_noise_1", "'six'"),
    ("ties/height", "blur_1.mop", "ties.height", "no output 'mop'"),
    ("ties/bump", "blur_1", "ties.bump", "no map 'bump'"),
    ("surface/depth", -1, "surface.depth", "-1 is not a length"),
    ("surface/width", "wide", "surface.width", "expected a number"),
    ("recipe/size", 100000, "recipe.size", "from 1 to 8192"),
    ("lit/distance", "far", "lit.distance", "expected a number"),
    ("viewpoints", {"Rim": {"key": [1.0]}}, "viewpoints", "length 2"),
    ("version", "2.0", "", "newer Reed Loom"),
    ("version", "soon", "", "version"),
    ("format", "something-else", "", "not a weave"),
]


@pytest.mark.parametrize(("path", "value", "place", "trouble"), WRONG)
def test_wrong_files_name_the_place_and_the_trouble(
    plain: dict[str, Any], path: str, value: Any, place: str, trouble: str, tmp_path: Path
) -> None:
    file = tmp_path / "clay.reed"
    file.write_bytes(changed(plain, path, value))
    with pytest.raises(rl.FileError) as caught:
        rl.open_weave(file)
    text = str(caught.value)
    assert str(file) in text and place in text and trouble in text
    assert text.endswith(".") and "\n" not in text and text.count("Cannot open") == 1


def test_files_that_are_no_weave_at_all(tmp_path: Path) -> None:
    whole = shipped_weave("lakebed-clay").read_bytes()
    cases = {
        "truncated": whole[: len(whole) // 2],
        "empty": b"",
        "binary": bytes(range(256)) * 10,
        "list": b"[1, 2]",
        "deep": b"[" * 200000,
        "number": b'{"format": "reed-loom-weave", "version": "1.0", "name": NaN}',
    }
    for name, data in cases.items():
        file = tmp_path / f"{name}.reed"
        file.write_bytes(data)
        with pytest.raises(rl.FileError, match=r"^Cannot open .*\.$"):
            rl.open_weave(file)
    huge = tmp_path / "huge.reed"
    with huge.open("wb") as handle:
        handle.truncate(SIZE_LIMIT + 1)
    with pytest.raises(rl.FileError, match="larger than 64 MB"):
        rl.open_weave(huge)
    with pytest.raises(rl.FileError, match="no such file"):
        rl.open_weave(tmp_path / "gone.reed")
    with pytest.raises(rl.FileError, match="folder"):
        rl.open_weave(tmp_path)


def test_fields_of_a_newer_minor_version_are_kept(plain: dict[str, Any]) -> None:
    plain["version"] = "1.7"
    plain["mood"] = {"calm": True}
    plain["nodes"]["blur_1"]["halo"] = [1, 2]
    plain["surface"]["age"] = 3
    plain["notes"] = {"note_1": {"text": "Wet", "ink": "blue"}}
    again = json.loads(encode_document(decode_document(json.dumps(plain).encode())))
    assert again["mood"] == {"calm": True}
    assert again["nodes"]["blur_1"]["halo"] == [1, 2]
    assert again["surface"]["age"] == 3
    assert again["notes"]["note_1"]["ink"] == "blue"


def test_the_published_schema_is_the_codes(plain: dict[str, Any]) -> None:
    published = json.loads((ROOT / "docs" / "weave.schema.json").read_text())
    assert published == json.loads(json.dumps(json_schema()))
    for name in published["$defs"]["FileNode"]["properties"]:
        assert f"`{name}`" in (ROOT / "docs" / "file-format.md").read_text(), name


def test_shipped_weaves_open_and_are_in_the_form_the_code_writes() -> None:
    for path in (FOLDER / "weaves").glob("*.reed"):
        assert encode_document(rl.open_weave(path).document) == path.read_bytes()


def test_the_previous_version_is_kept_once(tmp_path: Path) -> None:
    file, weave = tmp_path / "clay.reed", rl.Weave()
    texts = []
    for kind in ("disc", "blur", "curve"):
        weave.add(kind)
        rl.save_weave(weave, file)
        texts.append(file.read_bytes())
    assert (tmp_path / "clay.reed.previous").read_bytes() == texts[1]
    assert sorted(p.name for p in tmp_path.iterdir()) == ["clay.reed", "clay.reed.previous"]


def test_saving_where_it_cannot_be_loses_nothing(tmp_path: Path) -> None:
    weave = rl.Weave()
    weave.add("disc")
    with pytest.raises(rl.FileError, match=r"^Cannot save .*no such file or folder"):
        rl.save_weave(weave, tmp_path / "gone" / "clay.reed")
    file = tmp_path / "clay.reed"
    rl.save_weave(weave, file)
    before = file.read_bytes()
    for _ in range(40):
        weave.add("levels")
    soft, hard = resource.getrlimit(resource.RLIMIT_FSIZE)
    handler = signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (1000, hard))
    try:
        with pytest.raises(rl.FileError, match="allows"):
            rl.save_weave(weave, file)
    finally:
        resource.setrlimit(resource.RLIMIT_FSIZE, (soft, hard))
        signal.signal(signal.SIGXFSZ, handler)
    assert file.read_bytes() == before
    assert [p.name for p in tmp_path.iterdir()] == ["clay.reed"]


KILLED_WHILE_SAVING = """
import os, sys
import reedloom as rl
from pathlib import Path
weave = rl.open_weave(sys.argv[1])
for _ in range(20):
    weave.add("blur")
real = getattr(os, sys.argv[2])
def die(*args, **more):
    os.kill(os.getpid(), 9)
setattr(os, sys.argv[2], die)
rl.save_weave(weave, sys.argv[1])
"""


@pytest.mark.parametrize("moment", ["fsync", "link", "replace"])
def test_a_kill_in_the_middle_of_a_save_leaves_a_whole_file(moment: str, tmp_path: Path) -> None:
    file, weave = tmp_path / "clay.reed", rl.Weave()
    weave.add("disc")
    rl.save_weave(weave, file)
    ended = subprocess.run(
        [sys.executable, "-c", KILLED_WHILE_SAVING, str(file), moment], check=False, env=os.environ
    )
    assert ended.returncode == -signal.SIGKILL
    assert rl.open_weave(file).document == weave.document


def test_seeds_of_older_files_look_as_they_did_and_kinds_of_one_seed_are_independent() -> None:
    weave = rl.Weave()
    kinds = ("gradient_noise", "value_noise", "white_noise")
    for kind in kinds:
        weave.add(kind, seed=3 if kind != "white_noise" else 0)
    text = encode_document(weave.document)
    old = decode_document(text.replace(b'"version": "1.3"', b'"version": "1.2"'))
    for kind in kinds:
        wanted = flow_of(kind, {}, {"seed": 3 if kind != "white_noise" else 0}, (64, 64))
        got = rl.evaluate(rl.Weave(old), f"{kind}_1", 64)
        assert np.array_equal(got, wanted)
        assert not np.array_equal(rl.evaluate(weave, f"{kind}_1", 64), wanted)
    assert encode_document(decode_document(encode_document(old))) == encode_document(old)
    weave = rl.Weave()
    for kind in ("gradient_noise", "fractal_noise"):
        weave.add(kind, seed=7, cells=16)
    first, second = (rl.evaluate(weave, f"{kind}_1", 256) for kind in ("gradient_noise", "fractal_noise"))
    assert abs(np.corrcoef(first.reshape(-1), second.reshape(-1))[0, 1]) < 0.1


def test_a_seed_that_follows_a_dial_in_an_older_file_is_told() -> None:
    document = decode_document(
        b"""{"format": "reed-loom-weave", "version": "1.2",
        "dials": {"lay": {"type": "seed", "default": 4, "useful": [0, 100], "hard": [0, 2147483647]}},
        "nodes": {"n": {"kind": "gradient_noise", "formulas": {"seed": "lay"}}}}"""
    )
    assert document.remarks["n"] == "It is arranged otherwise: its seed follows a formula."
