"""The checks can fail: small wrong changes that are quickly tried are each caught."""

from __future__ import annotations

import pytest
from mutants import MUTANTS, Mutant, trouble_with


@pytest.mark.parametrize("mutant", [pytest.param(m, id=m.name) for m in MUTANTS if m.fast])
def test_a_wrong_change_is_caught(mutant: Mutant) -> None:
    assert trouble_with(mutant) == ""
