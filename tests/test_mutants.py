"""The checks can fail: of the small wrong changes that are quickly tried, every tenth is, and is caught.

`python tools/mutants.py` tries all of them, which takes too long for each run of the tests.
"""

from __future__ import annotations

import pytest
from mutant import Mutant
from mutants import trouble_with
from wrong_changes import MUTANTS

# What changes a kernel has all of those compiled anew that its tests need.
QUICK = [m for m in MUTANTS if m.fast and not m.file.startswith("kernels/")][::10]


@pytest.mark.parametrize("mutant", [pytest.param(m, id=m.name) for m in QUICK])
def test_a_wrong_change_is_caught(mutant: Mutant) -> None:
    assert trouble_with(mutant) == ""
