"""The laws and promises hold for every kind in the catalogue, and each can fail."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from reedloom.kinds.catalogue import built_in_kinds
from reedloom.kit.kind import Kind
from reedloom.laws.draws import smooth_map
from reedloom.laws.laws import RULES
from reedloom.laws.memory import MEMORY
from reedloom.laws.promises import PROMISES

Rule = Callable[[Kind], None]


@pytest.mark.parametrize("rule", [pytest.param(r, id=r.__name__) for r in (*RULES, *PROMISES, *MEMORY)])
@pytest.mark.parametrize("kind", [pytest.param(k, id=k.id) for k in built_in_kinds()])
def test_every_kind_keeps(kind: Kind, rule: Rule) -> None:
    assert rule(kind) is None  # it raises `BrokenLaw` where it does not hold


def test_a_smooth_map_is_the_same_at_every_size() -> None:
    """The laws' own input must not be what breaks them."""
    fine = smooth_map(256, 256).reshape(64, 4, 64, 4).mean(axis=(1, 3))
    assert np.abs(fine - smooth_map(64, 64)).max() < 0.02
