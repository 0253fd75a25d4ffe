"""A kind's picture changes only with its version: numbers of every kind, kept beside.

After raising a kind's version, run ``python tests/test_golden.py`` to keep the new numbers.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path

import numpy as np
import pytest

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.kind import Kind
from reedloom.laws.draws import make_inputs, run

KEPT = Path(__file__).with_name("golden.json")
SIZE = (48, 40)


def numbers(kind: Kind) -> dict[str, list[float]]:
    """Mean, spread and nine samples of each output, at the defaults and at the creel's sample."""
    found = {}
    for name, values in (("defaults", kind.defaults()), ("sample", kind.defaults() | dict(kind.sample))):
        for port, array in run(kind, make_inputs(kind, *SIZE), values, SIZE).outputs.items():
            picked = array[::19, ::23].reshape(-1)[:9].astype(float)
            spread = [float(array.mean(dtype=np.float64)), float(array.std(dtype=np.float64))]
            found[f"{name} {port}"] = [round(v, 5) for v in (*spread, *picked)]
    return found


@pytest.mark.parametrize("kind", [pytest.param(k, id=k.id) for k in built_in_kinds()])
def test_the_picture_is_that_of_its_version(kind: Kind) -> None:
    kept = json.loads(KEPT.read_text())
    assert f"{kind.id} {kind.version}" in kept, "keep this version's numbers; see the top of this file"
    wanted = kept[f"{kind.id} {kind.version}"]
    got = numbers(kind)
    assert got.keys() == wanted.keys()
    for name, values in got.items():
        assert values == pytest.approx(wanted[name], abs=2e-3), name


if __name__ == "__main__":
    sys.path.insert(0, str(Path(__file__).parent))
    KEPT.write_text(
        json.dumps({f"{k.id} {k.version}": numbers(k) for k in built_in_kinds()}, indent=1) + "\n"
    )
