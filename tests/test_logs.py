"""The log keeps what was unforeseen, and the report of it tells nobody's paths."""

from __future__ import annotations

import logging
import threading
from pathlib import Path

import pytest

from reedloom.logs import begin_log, end_log, log_file, report, without_paths


@pytest.fixture
def logged(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A log of its own, and the hooks put back afterwards."""
    monkeypatch.setenv("REEDLOOM_STATE", str(tmp_path / "Ada Reed" / "state"))
    monkeypatch.setattr("sys.excepthook", lambda *a: None)
    monkeypatch.setattr("threading.excepthook", lambda a: None)
    begin_log()
    yield log_file()  # type: ignore[misc]
    end_log()


def test_what_a_thread_did_not_catch_is_in_the_log_and_in_the_report(logged: Path) -> None:
    def break_down() -> None:
        raise RuntimeError("cannot read '/home/ada reed/net cord/knots.png'")

    thread = threading.Thread(target=break_down)
    thread.start()
    thread.join()
    text = logged.read_text()
    assert "Traceback" in text and "break_down" in text and "net cord" in text
    told = report([("blur", "cannot read '/srv/film/secret/a.png': it is broken.")])
    assert "Traceback" in told and "RuntimeError" in told and "numba" in told
    assert "- blur: cannot read '…/a.png': it is broken." in told
    for private in ("ada reed", "net cord", "/home", "/srv", "secret", str(Path.home())):
        assert private not in told


@pytest.mark.parametrize(
    ("text", "told"),
    [
        ('File "/opt/a b/c d.py", line 3', 'File "…/c d.py", line 3'),
        ("at ~/films/wet.reed now", "at …/wet.reed now"),
        ("1/3 of 3/4, u/v and 2 m / 1 m", "1/3 of 3/4, u/v and 2 m / 1 m"),
        ("'C:\\Users\\Ada\\x.png'", "'…/x.png'"),
    ],
)
def test_paths_are_cut_to_their_last_part(text: str, told: str) -> None:
    assert without_paths(text) == told


def test_the_log_stays_small(logged: Path) -> None:
    for number in range(9000):
        logging.getLogger("reedloom.test").warning("Line %d of a long story about a lake village", number)
    assert logged.stat().st_size <= 600_000
    assert len(list(logged.parent.glob("reedloom.log*"))) <= 3


def test_a_place_that_cannot_be_written_is_no_obstacle(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    (tmp_path / "file").write_text("")
    monkeypatch.setenv("REEDLOOM_STATE", str(tmp_path / "file" / "state"))
    begin_log()
    assert "there is none" in report()
