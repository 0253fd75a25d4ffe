"""Short runs of the seeded fuzzers in `tools/fuzz/`; long ones are a command, see `docs/reliability.md`."""

from __future__ import annotations

import importlib
import sys
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

TOOLS = Path(__file__).parents[1] / "tools" / "fuzz"
SHORT = [
    ("documents", "run", 500),
    ("pictures", "run", 1000),
    ("formulas", "run", 4000),
    ("names", "run", 60),
    ("kills", "saving", 20),
    ("kills", "delivering", 20),
]


@pytest.fixture
def fuzzer(monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[[str], object]]:
    """The fuzzers' modules by name, which lie beside the sources rather than in them."""
    monkeypatch.syspath_prepend(str(TOOLS))
    yield importlib.import_module
    for name in ("documents", "pictures", "formulas", "names", "kills", "hostile"):
        sys.modules.pop(name, None)


@pytest.mark.parametrize(("module", "function", "count"), SHORT)
@pytest.mark.filterwarnings("ignore::RuntimeWarning", "ignore::DeprecationWarning")  # of forks
def test_nothing_is_found(fuzzer: Callable[[str], object], module: str, function: str, count: int) -> None:
    assert getattr(fuzzer(module), function)(count, seed=1) > 0


def test_a_fuzzer_can_find_something(
    fuzzer: Callable[[str], object], monkeypatch: pytest.MonkeyPatch
) -> None:
    hostile = fuzzer("hostile")
    for error in (ValueError("no"), __import__("reedloom").ReedError("'NoneType' object is not iterable.")):
        with pytest.raises(hostile.FaultError):  # type: ignore[attr-defined]
            hostile.in_a_sentence(error, "trying")  # type: ignore[attr-defined]
    documents = fuzzer("documents")
    monkeypatch.setattr(documents, "encode_document", lambda document: b"{}")
    with pytest.raises(documents.FaultError):  # type: ignore[attr-defined]
        documents.run(60, 1)  # type: ignore[attr-defined]
