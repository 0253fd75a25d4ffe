"""One small wrong change, and the tests that several of them name."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Mutant:
    """One wrong change.

    Attributes
    ----------
    file : str
        Below src/reedloom.
    right, wrong : str
        What stands there once, and what is put in its place.
    caught_by : str
        The tests that must fail, as pytest names them.
    fast : bool
        Whether it takes a few seconds only.
    """

    name: str
    file: str
    right: str
    wrong: str
    caught_by: str
    fast: bool = True


EVALUATION, LAWS = "tests/loom/test_evaluation.py", "tests/laws/test_laws.py"
MAPS = "tests/kernels/test_map_references.py"
FILTERS = "tests/kernels/test_filter_references.py"
NOISE = "tests/kernels/test_noise_references.py"
LANES = "tests/kernels/test_vector_references.py"
SUMS = "tests/kernels/test_placed_sums.py"
PATTERNS = "tests/kernels/test_pattern_references.py"
FILES, SAFETY = "tests/test_files.py", "tests/desk/test_safety.py"
REUSE, COMMANDS = "tests/weave/test_reuse.py", "tests/test_cli.py"
TWICE = f"{REUSE}::test_a_motif_used_twice_is_its_graph_laid_out_twice_and_equal_uses_are_computed_once"
PACKED = f"{REUSE}::test_packing_and_unpacking_change_no_map_by_one_bit"
BY_NAME = "tests/desk/test_commands_by_name.py"
BY_HAND = "tests/desk/test_board_by_hand.py"
ORDERS = f"{COMMANDS}::test_orders_deliver_a_project_and_one_that_fails_costs_only_itself"
