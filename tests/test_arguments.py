"""Whatever a script gives to a public function: it works, or the error is one of ours."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import numpy as np
import pytest

import reedloom as rl

WRONG: list[Any] = [
    None, 3, -1, 3.5, float("nan"), "", "x", "\ud800", "a\0b", b"x", [], {}, (1,), object(), True, 10**400,
    np.zeros(3), {"a": 1}, [None], "~nobody-has-this-name",
]  # fmt: skip


@pytest.fixture
def weave() -> rl.Weave:
    """A weave of two nodes, one tied to the rail."""
    made = rl.Weave()
    made.connect(made.add("gradient_noise"), made.add("blur"))
    made.tie("blur_1", "height")
    return made


def calls(w: rl.Weave) -> dict[str, Callable[[Any], Any]]:
    """Every argument of every public function, to be given anything."""
    found: dict[str, Callable[[Any], Any]] = {
        "Weave document": rl.Weave,
        "Weave kinds": lambda v: rl.Weave(None, v),
        "add kind": w.add,
        "set node": lambda v: w.set(v, radius=1),
        "remove": w.remove,
        "connect source": lambda v: w.connect(v, "blur_1"),
        "connect target": lambda v: w.connect("gradient_noise_1", v),
        "disconnect": w.disconnect,
        "tie source": lambda v: w.tie(v, "height"),
        "tie channel": lambda v: w.tie("blur_1", v),
        "untie": w.untie,
        "rename": w.rename,
        "surface width": w.set_surface,
        "surface height": lambda v: w.set_surface(1, v),
        "surface depth": lambda v: w.set_surface(1, 1, v),
        "end": w.end,
        "open": rl.open_weave,
        "save weave": lambda v: rl.save_weave(v, "a.reed"),
        "save path": lambda v: rl.save_weave(w, v),
        "evaluate weave": lambda v: rl.evaluate(v, "blur_1"),
        "evaluate output": lambda v: rl.evaluate(w, v, 4),
        "evaluate size": lambda v: rl.evaluate(w, "blur_1", v),
        "evaluate side": lambda v: rl.evaluate(w, "blur_1", (4, v)),
        "evaluate stop": lambda v: rl.evaluate(w, "blur_1", 4, stop=v),
        "evaluate progress": lambda v: rl.evaluate(w, "blur_1", 4, progress=v),
        "maps weave": rl.evaluate_maps,
        "maps size": lambda v: rl.evaluate_maps(w, v),
        "bound_cache": rl.bound_cache,
        "deliver weave": lambda v: rl.deliver(v, "o"),
        "deliver folder": lambda v: rl.deliver(w, v, 4),
        "deliver overwrite": lambda v: rl.deliver(w, "o", 4, overwrite=bool(np.any(v))),
        "deliver map": lambda v: rl.deliver(w, "o", 4, maps=[v]),
    }
    for name in ("size", "format", "maps", "name", "normal_y", "stop", "progress"):
        given = {} if name == "size" else {"size": 4}
        found[f"deliver {name}"] = lambda v, n=name, g=given: rl.deliver(w, "o", **g, **{n: v})  # type: ignore[misc]
    for kind, name in (
        ("blur", "radius"), ("picture", "file"), ("gradient_map", "mixing"), ("gradient_map", "gradient"),
        ("solid", "colour"), ("curve", "curve"), ("woven_cloth", "draft"), ("formula", "formula"),
        ("picture", "keep_shape"), ("gradient_noise", "seed"),
    ):  # fmt: skip
        found[f"add {kind} {name}"] = lambda v, k=kind, n=name: w.add(k, **{n: v})  # type: ignore[misc]
    return found


def cases() -> Iterator[str]:
    """The names of all calls."""
    yield from calls(rl.Weave())


@pytest.mark.parametrize("name", list(cases()))
def test_anything_given_works_or_is_refused_by_one_of_ours(
    weave: rl.Weave, name: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(tmp_path)
    call = calls(weave)[name]
    for value in WRONG:
        try:
            call(value)
        except rl.ReedError as error:
            assert str(error).endswith(".") and "object is not" not in str(error), (name, value)
