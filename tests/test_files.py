"""Files are read within bounds and written whole; what they are stays, and nothing is left lying about."""

from __future__ import annotations

import os
import stat
import time
import zlib
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import reedloom as rl
from reedloom import picture_files
from reedloom.delivery import recipe
from reedloom.errors import ProtectedError, readable
from reedloom.files import PART, read_whole, whole_file
from reedloom.loom.cache import Cache
from reedloom.picture_files import content_digest, read_picture
from reedloom.weave.arithmetic import calculate
from reedloom.weave.fileformat import (
    PART_LIMIT,
    decode_document,
    encode_document,
    load_document,
    save_document,
)
from reedloom.weave.weave import Weave
from weaving import evaluate


def noise_weave(kind: str = "solid", channel: str = "base_colour", **values: Any) -> Weave:
    """A weave of one node tied to the rail."""
    weave = rl.Weave()
    weave.tie(weave.add(kind, **values), channel)
    return weave


def png(path: Path, width: int, height: int, rows: bytes, depth: int = 8, interlaced: bool = False) -> None:
    """A grey PNG of those rows, which need not be as many as it says."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return len(data).to_bytes(4, "big") + name + data + zlib.crc32(name + data).to_bytes(4, "big")

    head = width.to_bytes(4, "big") + height.to_bytes(4, "big") + bytes([depth, 0, 0, 0, int(interlaced)])
    body = chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows, 9)) + chunk(b"IEND", b"")
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + body)


# -- saving -----------------------------------------------------------------------------------------------


def test_a_saved_file_stays_what_it_is(tmp_path: Path) -> None:
    weave, file, link = noise_weave(), tmp_path / "mat.reed", tmp_path / "link.reed"
    rl.save_weave(weave, file)
    file.chmod(0o600)
    link.symlink_to(file)
    weave.rename("Second")
    rl.save_weave(weave, link)
    assert link.is_symlink() and stat.S_IMODE(file.stat().st_mode) == 0o600
    assert load_document(file).name == "Second"
    assert load_document(tmp_path / "mat.reed.previous").name != "Second"
    other = tmp_path / "other-name.reed"
    os.link(file, other)
    weave.rename("Third")
    rl.save_weave(weave, file)
    assert other.samefile(file) and load_document(other).name == "Third"
    assert load_document(tmp_path / "mat.reed.previous").name == "Second"
    file.chmod(0o444)
    with pytest.raises(ProtectedError, match="write-protected"):
        rl.save_weave(weave, file)
    save_document(weave.document, file, force=True)
    assert stat.S_IMODE(file.stat().st_mode) == 0o444


def test_what_a_killed_save_left_is_cleared_and_what_another_writes_is_not(tmp_path: Path) -> None:
    file = tmp_path / "mat.reed"
    (tmp_path / f".mat.reed-0123abcd{PART}").write_text("left")
    (tmp_path / f".mat.reed-mine{PART}").write_text("named otherwise")
    with whole_file(file) as other:
        other.write_text("another program's")
        with whole_file(file) as part:
            assert other.exists() and not (tmp_path / f".mat.reed-0123abcd{PART}").exists()
            part.write_text("first")
        assert file.read_text() == "first"
    assert file.read_text() == "another program's"
    assert sorted(p.name for p in tmp_path.iterdir()) == [f".mat.reed-mine{PART}", "mat.reed"]


def test_a_save_that_fails_leaves_all_as_it_was(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    weave, file = noise_weave(), tmp_path / "mat.reed"
    rl.save_weave(weave, file)
    before = file.read_bytes()
    weave.rename("Second")

    def full(*_: Any) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(os, "fsync", full)
    with pytest.raises(rl.FileError, match="the disk is full"):
        rl.save_weave(weave, file)
    assert file.read_bytes() == before
    assert {p.name for p in tmp_path.iterdir()} <= {"mat.reed", "mat.reed.previous"}


def test_only_plain_files_within_a_size_are_read(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    with (tmp_path / "sparse").open("wb") as file:
        file.truncate(2**40)
    for path in (
        tmp_path / "pipe",
        tmp_path / "sparse",
        Path("/dev/zero"),
        tmp_path,
        Path("\ud800"),
        Path("a\0"),
    ):
        with pytest.raises(rl.FileError) as caught:
            read_whole(path, 1000)
        assert str(caught.value).endswith(".")
        with pytest.raises(rl.FileError):
            read_picture(path)
        assert content_digest(path) is None


# -- what a file may hold ---------------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("old", "new", "trouble"),
    [
        ('"name": "Untitled"', '"name": "a", "name": "b"', "the field 'name' twice"),
        ('"depth": 0.05', '"depth": 1' + "0" * 400, "401 digits"),
        ('"name": "Untitled"', '"name": "a", "mood": ' + "[" * 90 + "]" * 90, "nested too deeply"),
        ('"name": "Untitled"', '"name": "a", "mood": ' + "[" * 9000 + "]" * 9000, "nested too deeply"),
        ('"name": "Untitled"', '"name": "a", "mood": ["\\ud800"]', "at 'mood.0': the text holds half"),
        ('"name": "Untitled"', '"name": "a", "\\udfff": 1', "half of a character"),
        ('"at": [0.0, 0.0]', '"at": ["0", 0.0]', "at 'nodes.solid_1.at[0]': expected a number, got a text"),
        ('"version": 1', '"version": 1, "parameters": {"colour": 0.5}', "use three numbers"),
        ('"version": 1', '"version": 1, "parameters": {"colour": ["a", 0, 0]}', "needs 3 numbers"),
        ('"version": 1', '"version": 1, "parameters": {"colour": [1e9, 0, 0]}', "needs 3 numbers"),
        ('"version": 1', '"version": 1, "parameters": {"' + "x" * 9000 + '": 1}', "no parameter 'xxx"),
        ('"version": 1', '"version": 1, "parameters": {"a\\u202eb\\u0007": 1}', "'a\\u202eb\\x07'"),
    ],
)
def test_hostile_documents_are_refused_in_a_short_sentence(old: str, new: str, trouble: str) -> None:
    text = encode_document(noise_weave().document).decode()
    assert old in text
    with pytest.raises(rl.FileError) as caught:
        decode_document(text.replace(old, new, 1).encode())
    told = str(caught.value)
    assert trouble in told and told.endswith(".") and len(told) < 800 and told.isprintable()
    assert not any(word in told for word in ("object is not", "convert", "NoneType", "Errno"))


def test_crowds_are_refused_before_anything_is_built_of_them() -> None:
    text = encode_document(noise_weave().document).decode()
    crowd = ",".join(f'"n{n}":{{"kind":"solid"}}' for n in range(150_000))
    for data, trouble in (
        (text.replace('"nodes": {', '"nodes": {' + crowd + ",", 1), "150001 nodes"),
        (text.replace('"name"', '"mood": [' + "0," * PART_LIMIT + '0], "name"', 1), "values, more than"),
    ):
        start = time.process_time()
        with pytest.raises(rl.FileError, match=trouble):
            decode_document(data.encode())
        assert time.process_time() - start < 20  # it took minutes; this is no timing of speed


def test_long_and_hidden_signs_of_a_text_are_shown_as_such() -> None:
    assert readable("plain – ‘text’ 中 🪢") == "plain – ‘text’ 中 🪢"
    assert readable("a\u202eb\x07c\ud800\n") == "a\\u202eb\\x07c\\ud800\\n"
    assert len(readable("x" * 10_000)) == 60 and len(str(rl.ReedError("x" * 10_000))) == 700


def test_a_number_field_keeps_all_digits_of_its_numbers() -> None:
    assert calculate("123456789/2") == 61728394.5
    assert calculate("(3 < 5) * 123456789") == 123456789
    assert calculate("16777217 ** 1") == 16777217
    assert calculate("123456789 % 100000") == 56789


# -- pictures ---------------------------------------------------------------------------------------------


def test_a_huge_picture_is_refused_before_its_samples_are_taken(tmp_path: Path) -> None:
    png(tmp_path / "huge.png", 30_000, 30_000, b"\0" * 1000)
    with pytest.raises(rl.FileError, match="30000 × 30000 × 1 samples are more than the 256 million"):
        read_picture(tmp_path / "huge.png")


def test_a_large_picture_is_read_elsewhere_and_can_be_stopped(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    side = 2500
    row = bytes([0, *(x * 255 // (side - 1) for x in range(side))])
    png(tmp_path / "ramp.png", side, side, row * side)
    started: list[Any] = []
    real = picture_files.subprocess.Popen
    monkeypatch.setattr(
        picture_files.subprocess, "Popen", lambda *a, **k: (started.append(real(*a, **k)), started[-1])[1]
    )
    looks = 0

    def check() -> None:
        nonlocal looks
        looks += 1
        if looks > 1:
            raise rl.Cancelled

    with pytest.raises(rl.Cancelled):
        read_picture(tmp_path / "ramp.png", check)
    assert started[0].poll() == -9  # ended, rather than waited for
    found = read_picture(tmp_path / "ramp.png").samples
    assert found.shape == (side, side, 1) and len(started) == 2
    assert np.allclose(found[7, :, 0] * 255, np.round(np.arange(side) * 255 // (side - 1)))
    read_picture(tmp_path / "ramp.png")
    assert len(started) == 2  # kept


def test_all_outputs_of_a_picture_are_made_of_one_reading(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    png(tmp_path / "a.png", 4, 4, b"\0\1\2\3\4" * 4)
    weave = rl.Weave()
    node = weave.add("picture", file=str(tmp_path / "a.png"))
    calls: list[Path] = []
    from reedloom.kinds.value import picture as kind_module

    real = read_picture
    monkeypatch.setattr(kind_module, "read_picture", lambda path, check: (calls.append(path), real(path))[1])
    cache = Cache(2**24)
    for output in ("colour", "grey", "alpha"):
        evaluate(weave.document, [weave.end(f"{node}.{output}")], 8, cache=cache)
    assert len(calls) == 1


def test_a_picture_changed_behind_its_times_is_noticed(tmp_path: Path) -> None:
    file = tmp_path / "a.png"
    png(file, 2, 2, b"\0\x10\x10" * 2)
    weave = noise_weave("picture", "height", file=str(file))
    first = rl.evaluate_maps(weave, 2)["height"]
    state = file.stat()
    png(file, 2, 2, b"\0\x20\x20" * 2)
    os.utime(file, ns=(state.st_atime_ns, state.st_mtime_ns))
    assert file.stat().st_size == state.st_size
    assert not np.array_equal(rl.evaluate_maps(weave, 2)["height"], first)


def test_files_and_formats_that_are_no_picture_are_said_to_be_none(tmp_path: Path) -> None:
    (tmp_path / "x.jp2").write_bytes(b"\0\0\0\x0cjP  \r\n\x87\n" + bytes(100))
    with pytest.raises(rl.FileError, match="none of PNG, JPEG"):
        read_picture(tmp_path / "x.jp2")
    weave = noise_weave("picture", "height", file="~nobody-has-this-name/x.png")
    with pytest.raises(rl.EvaluationError, match="nobody of that name"):
        rl.evaluate_maps(weave, 4)
    rl.save_weave(weave, tmp_path / "kept.reed")
    assert rl.open_weave(tmp_path / "kept.reed").document.graph.nodes["picture_1"].parameters == {
        "file": "~nobody-has-this-name/x.png"
    }


def test_a_picture_of_alpha_alone_is_a_sentence(tmp_path: Path) -> None:
    import OpenImageIO as oiio  # noqa: N813

    spec = oiio.ImageSpec(4, 4, 1, "half")
    spec.channelnames = ("A",)
    spec.alpha_channel = 0
    out = oiio.ImageOutput.create(str(tmp_path / "a.exr"))
    out.open(str(tmp_path / "a.exr"), spec)
    out.write_image(np.ones((4, 4, 1), np.float32))
    out.close()
    with pytest.raises(rl.EvaluationError, match="alpha but no colour"):
        rl.evaluate_maps(noise_weave("picture", "height", file=str(tmp_path / "a.exr")), 4)


# -- delivery ---------------------------------------------------------------------------------------------


def three_maps(value: float) -> Weave:
    """A weave with three maps of one value."""
    weave = rl.Weave()
    for channel in ("height", "roughness", "metallic"):
        weave.tie(weave.add("number", value=value), channel)
    return weave


def test_a_set_moves_in_as_one_or_is_put_back(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    rl.deliver(three_maps(0.25), tmp_path, 4)
    before = {path.name: path.read_bytes() for path in tmp_path.iterdir()}
    (tmp_path / "untitled_metallic.png").unlink()
    del before["untitled_metallic.png"]
    real, moved = Path.replace, []

    def replace(self: Path, target: Path) -> Path:
        if not self.name.startswith(recipe.OLD):
            moved.append(target)
            if len(moved) == 3:
                raise OSError(28, "No space left on device")
        return real(self, target)

    monkeypatch.setattr(Path, "replace", replace)
    with pytest.raises(rl.FileError, match="the disk is full"):
        rl.deliver(three_maps(0.75), tmp_path, 4)
    assert {path.name: path.read_bytes() for path in tmp_path.iterdir()} == before


def test_a_folder_in_a_maps_place_is_named_before_anything_is_done(tmp_path: Path) -> None:
    (tmp_path / "untitled_roughness.png").mkdir()
    with pytest.raises(rl.FileError, match=r"untitled_roughness.png': a folder of that name is there"):
        rl.deliver(three_maps(0.5), tmp_path, 4)
    assert [path.name for path in tmp_path.iterdir()] == ["untitled_roughness.png"]


def test_what_a_killed_delivery_left_is_cleared(tmp_path: Path) -> None:
    left = tmp_path / ".reedloom-0123abcd"
    left.mkdir()
    (left / "half.png").write_bytes(b"half")
    (tmp_path / ".reedloom-mine").mkdir()
    rl.deliver(three_maps(0.5), tmp_path, 4)
    assert not left.exists() and (tmp_path / ".reedloom-mine").exists()


def test_equal_deliveries_are_equal_files_wherever_they_lie(tmp_path: Path) -> None:
    odd = Path(os.fsdecode(os.fsencode(tmp_path) + b"/\xff\xfe"))
    first = rl.deliver(three_maps(0.5), odd, 4, format="exr_half")
    time.sleep(1.1)  # the time in a file counts seconds
    second = rl.deliver(three_maps(0.5), tmp_path / "b", 4, format="exr_half")
    assert [p.read_bytes() for p in first] == [p.read_bytes() for p in second]


# -- memory and measure -----------------------------------------------------------------------------------


def test_what_does_not_fit_in_memory_is_refused_in_a_sentence(monkeypatch: pytest.MonkeyPatch) -> None:
    from reedloom.loom import tasks

    monkeypatch.setattr(tasks, "free_memory", lambda: 2**29)
    weave = noise_weave("gradient_noise", "height")
    with pytest.raises(rl.EvaluationError, match=r"takes up to 6\.\d GB at this size, and 0\.5 GB"):
        rl.evaluate_maps(weave, 8192)
    assert rl.evaluate_maps(weave, 64)["height"].shape == (64, 64)


def test_what_maps_have_left_behind_is_handed_back_where_memory_is_short(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    from reedloom.loom import tasks

    free = [0, 2**40]
    monkeypatch.setattr(tasks, "free_memory", lambda: free[0])
    monkeypatch.setattr(tasks, "let_go", lambda: free.pop(0))
    assert rl.evaluate_maps(noise_weave("gradient_noise", "height"), 2048)["height"].shape == (2048, 2048)
    assert len(free) == 1


def test_counts_beyond_all_measure_are_refused(tmp_path: Path) -> None:
    weave = rl.Weave()
    weave.tie(weave.add("fan_cobbles", columns=256, rows=256, rings=64) + ".profile", "height")
    with pytest.raises(rl.EvaluationError, match="million stones, more than"):
        rl.evaluate_maps(weave, 16)


@pytest.mark.filterwarnings("ignore:overflow")
def test_no_map_leaves_a_node_with_numbers_that_are_not_finite() -> None:
    weave = rl.Weave()
    last = weave.add("number", value=1e6)
    for _ in range(8):
        more = weave.add("blend", mode="multiply")
        weave.connect(last, f"{more}.below")
        weave.connect(last, f"{more}.above")
        last = more
    ends = [weave.end(node) for node in weave.document.graph.nodes]
    outcome = evaluate(weave.document, ends, 4, cache=Cache(0))
    assert all(np.isfinite(value).all() for value in outcome.results.values()) and not outcome.failures
    assert any("beyond all measure" in note for notes in outcome.notes.values() for note in notes)
