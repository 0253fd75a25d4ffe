"""Small wrong changes to how weaves are evaluated and kernels kept, each with the tests that fail for it."""

from __future__ import annotations

from mutant import EVALUATION, FILES, Mutant

COMPILING = "tests/kernels/test_jit.py"
SCREEN = "tests/desk/test_screen.py"
DRAG = "test_results_of_a_drag_go_with_the_next_step_and_what_it_rests_on_stays"
FACE = "test_a_new_result_is_on_its_card_and_in_its_slot_and_leaves_the_frame"

MUTANTS = (
    Mutant(
        "nothing is taken from the cache", "loom/plan.py",
        "or _is_ready((knot.key, port), plan, cache):", "or (knot.key, port) in plan.ready:",
        f"{EVALUATION}::test_only_what_changed_is_computed",
    ),
    Mutant(
        "what a kept result needed is computed too", "loom/plan.py",
        "or _is_ready((knot.key, port), plan, cache):",
        "or (_is_ready((knot.key, port), plan, cache) and False):",
        f"{EVALUATION}::test_a_kept_end_needs_nothing_of_its_evicted_chain",
    ),
    Mutant(
        "conversions are made again each time", "loom/plan.py",
        "    if _is_ready(ref, plan, cache):\n", "    if ref in plan.ready:\n",
        f"{EVALUATION}::test_conversions_are_kept_by_keys_of_their_own",
    ),
    Mutant(
        "keys forget the size", "loom/keys.py",
        "[own_digest(node), size, sorted", "[own_digest(node), sorted",
        f"{EVALUATION}::test_only_what_changed_is_computed",
    ),
    Mutant(
        "keys forget the depth in metres", "loom/keys.py",
        "    if kind.physical:\n", "    if False:\n",
        f"{EVALUATION}::test_only_what_changed_is_computed",
    ),
    Mutant(
        "equal nodes are computed each for itself", "loom/keys.py",
        "digest([node.kind.id, ", "digest([node.id, node.kind.id, ",
        f"{EVALUATION}::test_nodes_of_equal_content_are_computed_once",
    ),
    Mutant(
        "a huge result flushes the others", "loom/cache.py",
        "            if array.nbytes > self.budget:\n                return\n", "",
        f"{EVALUATION}::test_the_cache_keeps_to_its_budget_and_lets_cheap_bulky_things_go_first",
    ),
    Mutant(
        "what the screen holds is thrown out", "loom/cache.py",
        "            if key in in_use:\n", "            if False:\n",
        f"{EVALUATION}::test_what_the_screen_holds_stays_and_counts",
    ),
    Mutant(
        "an error ends the worker", "loom/worker.py",
        "            self._guard(work)\n", "            work()\n",
        f"{EVALUATION}::test_the_background_hears_whatever_goes_wrong_and_goes_on", fast=False,
    ),
    Mutant(
        "the coarse stage is never left out", "loom/background.py",
        "if stage.unless is None or report", "if True or report",
        f"{EVALUATION}::test_a_coarse_stage_is_left_out_where_the_full_one_is_kept",
    ),
    Mutant(
        "maps may leave a node without end", "loom/tasks.py",
        "    if found[0]:\n", "    if True:\n",
        f"{FILES}::test_no_map_leaves_a_node_with_numbers_that_are_not_finite",
    ),
    Mutant(
        "large maps turn grey by lightness", "kit/values.py",
        'GREYS.index("luminance")', 'GREYS.index("lightness")',
        "tests/loom/test_data.py",
    ),
    Mutant(
        "memory is taken unasked", "loom/tasks.py",
        "    if wanted > free:\n", "    if False:\n",
        f"{FILES}::test_what_does_not_fit_in_memory_is_refused_in_a_sentence", fast=False,
    ),
    Mutant(
        "memory that waits is not handed back where it is short", "loom/tasks.py",
        "        let_go()  # what", "        pass  # what",
        f"{FILES}::test_what_maps_have_left_behind_is_handed_back_where_memory_is_short", fast=False,
    ),
    Mutant(
        "a task is begun before all it needs", "loom/crew.py",
        "            if not self._lacking[follower]:\n", "            if self._lacking[follower] <= 1:\n",
        "tests/loom/test_crew.py",
    ),
    Mutant(
        "hands without a task do not help", "loom/crew.py",
        "            if not self.helpers.help():\n", "            if True:\n",
        "tests/loom/test_crew.py",
    ),
    Mutant(
        "large maps are made side by side where memory is short", "loom/run.py",
        "threads * most < free_memory()", "True",
        "tests/loom/test_crew.py::test_large_maps_are_made_one_at_a_time_where_memory_is_short", fast=False,
    ),
    Mutant(
        "what goes wrong with a helper is lost", "kernels/helpers.py",
        "            raise shared.trouble\n", "            return\n",
        "tests/loom/test_crew.py",
    ),
    Mutant(
        "trouble in a task does not end the others", "loom/crew.py",
        "        if self.trouble is not None or not self._ready:\n", "        if not self._ready:\n",
        "tests/loom/test_crew.py",
    ),
    Mutant(
        "what was used since goes as if it had not been", "loom/cache.py",
        "elif entry.worth > worth:", "elif entry.worth > worth + 1e9:",
        "tests/loom/test_cache.py::test_what_is_worth_least_goes",
    ),
    Mutant(
        "what is in use leaves the heap for good", "loom/cache.py",
        "        for key, entry in spared:\n", "        for key, entry in spared[:0]:\n",
        "tests/loom/test_cache.py::test_what_is_worth_least_goes",
    ),
    Mutant(
        "a run that keeps nothing holds what it need not", "loom/lean.py",
        "return min(orders", "return max(orders", "tests/loom/test_lean.py",
    ),
    Mutant(
        "what a plan keeps of a node does not ask what comes into it", "loom/plan.py",
        "known[0] != about", "known[0][0] != about[0]",
        "tests/loom/test_random_weaves.py::test_what_a_plan_keeps_of_nodes_is_what_it_would_find_again",
    ),
    Mutant(
        "what a plan keeps of a node does not ask for the surface", "loom/plan.py",
        "about = (flat.surface, *", "about = (None, *",
        "tests/loom/test_random_weaves.py::test_what_a_plan_keeps_of_nodes_is_what_it_would_find_again",
    ),
    Mutant(
        "what a plan keeps of a node does not ask for the size", "loom/plan.py",
        "{**known, size: (about, knot)}", "{s: (about, knot) for s in ((40, 24), (32, 32), (16, 48))}",
        "tests/loom/test_random_weaves.py::test_what_a_plan_keeps_of_nodes_is_what_it_would_find_again",
    ),
    Mutant(
        "what a plan keeps of a node that reads a file does not ask for its content", "loom/plan.py",
        "known is None or known[1].reads_files or", "known is None or",
        "tests/kinds/test_ground.py::test_paths_follow_the_weave_and_a_changed_file_is_read_anew",
    ),
    Mutant(
        "a file that changed leaves what was found of its node", "loom/plan.py",
        " and known[size][1].key == knot.key:", ":",
        "tests/kinds/test_ground.py::test_paths_follow_the_weave_and_a_changed_file_is_read_anew",
    ),
    Mutant(
        "the worker goes on before the coarse picture is shown", "desk/screen/workplace.py",
        "self._taken.wait(GIVE_WAY)", "self._taken.wait(0)",
        f"{SCREEN}::test_the_worker_goes_on_once_a_picture_is_in_the_window", fast=False,
    ),
    Mutant(
        "a face keeps its old picture", "desk/board/face.py",
        "        if self._seen != before:\n", "        if False:\n", f"{SCREEN}::{FACE}", fast=False,
    ),
    Mutant(
        "each new result paints a card's frame", "desk/board/card.py",
        "        if self._frame != before:\n", "        if True:\n", f"{SCREEN}::{FACE}", fast=False,
    ),
    Mutant(
        "the rail's slots do not follow results", "desk/board/rail.py",
        "at(end) in ends:", "at(end) not in ends:", f"{SCREEN}::{FACE}", fast=False,
    ),
    Mutant(
        "what follows a dial stays when that is turned", "weave/resolve.py",
        "(node.formulas and read is not scope)", "(node.formulas and read is None)",
        "tests/weave/test_resolve.py",
    ),
    Mutant(
        "what a drag rests on goes with its steps", "loom/cache.py",
        "for key in self._passing if key not in needed and key not in in_use}",
        "for key in self._passing if key not in in_use}", f"{EVALUATION}::{DRAG}",
    ),
    Mutant(
        "a drag's results stay", "loom/run.py",
        "    elif plan.tasks:", "    elif False:", f"{EVALUATION}::{DRAG}",
    ),
    Mutant(
        "what was recorded goes with the next drag", "loom/run.py",
        "        store.settle(plan.ready)\n", "        pass\n",
        f"{EVALUATION}::test_a_drag_that_is_recorded_stays_and_one_that_is_dropped_goes",
    ),
    Mutant(
        "the row of what may go holds maps that went", "loom/cache.py",
        "[one for one in self._queue if self._entries.get(one[2]) is one[3]]", "list(self._queue)",
        f"{EVALUATION}::test_what_the_screen_shows_of_a_drag_stays_until_it_shows_another",
    ),
    Mutant(
        "a drag's large maps stay, in the window", "desk/screen/workplace.py",
        "not change.recorded and (change.computed or self._passing)", "False",
        "tests/desk/test_dragging.py", fast=False,
    ),
    Mutant(
        "freed memory goes back to the system", "loom/memory.py",
        "set_option(TRIM_THRESHOLD, min(total_memory() // KEPT, 2**31 - 1))", "set_option(TRIM_THRESHOLD, 0)",
        "tests/loom/test_memory.py",
    ),
    Mutant(
        "a plan holds nodes for ever", "loom/plan.py",
        "_known: WeakKeyDictionary[Resolved, _Known] = WeakKeyDictionary()",
        "_known: dict[Resolved, _Known] = {}",
        f"{EVALUATION}::test_a_plan_keeps_no_node_that_the_weave_has_let_go",
    ),
    Mutant(
        "every step is told", "loom/background.py",
        "if now - told >= TELL_EVERY:", "if now >= told:",
        f"{EVALUATION}::test_progress_is_told_now_and_then_and_never_goes_back",
    ),
    Mutant(
        "a mix takes channels out of what others need, too", "loom/run.py",
        "return Material.spare(value) if isinstance(value, Material) else value",
        'vars(value).update(is_spare=True) if isinstance(value, Material) else None; return value',
        "tests/loom/test_evaluation.py::test_a_material_that_two_mixes_need_is_whole_for_both",
    ),
    Mutant(
        "what a task is the last to need stays until it is done", "loom/run.py",
        "            run.live.pop(ref, None)\n", "            pass\n",
        "tests/loom/test_evaluation.py::"
        "test_a_mix_lets_go_of_channels_as_it_goes_where_nobody_else_needs_them",
    ),
    Mutant(
        "progress goes back with each pass over a map", "loom/run.py",
        "            if share > most:", "            if share != most:",
        f"{EVALUATION}::test_progress_goes_on_however_often_a_kind_goes_over_its_map",
    ),
    Mutant(
        "a stop meant for an old stage stops the new one", "loom/background.py",
        "            stop.set()\n\n    def add_errand",
        "            self._running[1].set()\n\n    def add_errand",
        f"{EVALUATION}::test_a_stop_meant_for_an_old_stage_never_stops_the_new_one", fast=False,
    ),
    Mutant(
        "no new map is looked through for what is beyond measure", "loom/tasks.py",
        "any(value is one for one in known)", "known",
        f"{EVALUATION}::test_maps_that_came_in_are_passed_on_and_others_are_held_within_measure",
    ),
    Mutant(
        "cards wait for the views in a drag that goes on", "desk/screen/workplace.py",
        "is_open and not self.background.busy and", "is_open and",
        "tests/desk/test_dragging.py::test_a_drag_that_goes_on_comes_to_the_cards", fast=False,
    ),
    Mutant(
        "the creel asks for every kind before the window is shown", "desk/creel/creel.py",
        "        self.shelf = BookShelf(self)\n",
        "        self.shelf = BookShelf(self)\n        len(workplace.kinds)\n",
        "tests/desk/test_opening.py::test_an_empty_window_is_painted_before_kinds_and_sources_are_read",
    ),
    Mutant(
        "cards come before the views of a change alone", "desk/screen/wish.py",
        "if cards_last else", "if False else",
        "tests/desk/test_dragging.py::test_the_view_is_painted_before_anything_on_the_board_or_rail",
        fast=False,
    ),
    Mutant(
        "formulas to try are not run ahead of time", "loom/warming.py",
        "        *_with_tries(declared, every),\n", "",
        "tests/loom/test_warming.py", fast=False,
    ),
    Mutant(
        "what cards show is not shown ahead of time", "loom/warming.py",
        "as_map(value, SIZE, SIZE)", "pass",
        "tests/loom/test_warming.py", fast=False,
    ),
    Mutant(
        "no sample of a fair size is run ahead of time", "loom/warming.py",
        "ends, WIDE, cache", "ends, SIZE, cache",
        "tests/loom/test_warming.py", fast=False,
    ),
    Mutant(
        "what kernels are written with may be edited without compiling anew", "kernels/jit.py",
        'if path.is_relative_to(package / "kernels") or any(', "if any(",
        f"{COMPILING}::test_an_edit_of_what_is_compiled_opens_a_new_folder",
    ),
    Mutant(
        "compiled kernels serve sources of one place only", "kernels/keeping.py",
        "not path.is_relative_to(PACKAGE)", "path",
        f"{COMPILING}::test_what_was_compiled_serves_the_same_sources_wherever_they_lie",
    ),
    Mutant(
        "kernels for another processor are taken for this one's", "kernels/jit.py",
        "return _compiler() in (cache_folder() / WARM).read_text(",
        "return (cache_folder() / WARM).read_text(",
        f"{COMPILING}::test_kernels_are_compiled_anew_for_another_processor",
    ),
)  # fmt: skip
