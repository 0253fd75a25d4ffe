"""Small wrong changes to all but kernels, kinds and the loom, each with the tests that must fail for it."""

from __future__ import annotations

from mutant import BY_HAND, BY_NAME, COMMANDS, FILES, LAWS, ORDERS, PACKED, REUSE, SAFETY, TWICE, Mutant

MUTANTS = (
    Mutant(
        "edits are not checked", "weave/session.py",
        "        check(after, kinds, passed)\n", "",
        "tests/weave/test_check.py",
    ),
    Mutant(
        "everything is checked at every edit", "weave/session.py",
        "passed = before if kinds is known else None", "passed = None",
        "tests/weave/test_check.py::test_only_what_differs_is_looked_at_again",
    ),
    Mutant(
        "numbers without end may be written", "weave/check.py",
        "if not abs(value) <= LARGEST:", "if abs(value) < 0:",
        "tests/weave/test_check.py",
    ),
    Mutant(
        "fields of a newer version are dropped", "weave/fileformat.py",
        'if key in known}, "extras": extras}', 'if key in known}, "extras": {}}',
        "tests/weave/test_fileformat.py::test_fields_of_a_newer_minor_version_are_kept",
    ),
    Mutant(
        "a rewired node keeps its old threads", "weave/resolve.py",
        "known.kind is kind and known.inputs == tied", "known.kind is kind",
        "tests/weave/test_resolve.py",
    ),
    Mutant(
        "an older version is not migrated", "weave/versions.py",
        "            values = _migrated(values, change, node)\n", "",
        "tests/kinds/test_own_kinds.py",
        fast=False,
    ),
    Mutant(
        "bands share scratch memory", "kit/context.py",
        "            out[y0:y1] = function(*(m[y0:y1] for m in maps))\n",
        "            spare[: y1 - y0] = function(*(m[y0:y1] for m in maps))\n"
        "            __import__('time').sleep(0.02)\n"
        "            out[y0:y1] = spare[: y1 - y0]\n",
        f"{LAWS}::test_every_kind_keeps[contrast-repeats_with_any_number_of_threads]",
    ),
    Mutant(
        "bands do not look for a stop", "kit/context.py",
        "            stop=self.stop,\n            progress", "            stop=None,\n            progress",
        f"{LAWS}::test_every_kind_keeps[disc-stops_between_bands_and_keeps_nothing]",
    ),
    Mutant(
        "a driver's neutral value changes things", "kit/ports.py",
        "return Driver(parameter, 1.0)", "return Driver(parameter, 0.0)",
        f"{LAWS}::test_every_kind_keeps[blur-is_not_driven_by_a_neutral_driver]",
    ),
    Mutant(
        "green of normals is never turned", "delivery/recipe.py",
        "array[..., 1] = 1 - array[..., 1]", "array[..., 1] = array[..., 1]",
        "tests/delivery/test_delivery.py",
    ),
    Mutant(
        "colours are written as plain numbers", "delivery/encode.py",
        "rows = srgb_from_linear(rows) if srgb else", "rows = np.clip(rows, 0, 1) if srgb else",
        "tests/delivery/test_delivery.py",
        fast=False,
    ),
    Mutant(
        "a report tells whole paths", "logs.py",
        'return PRIVATE.sub(r"…/\\1", QUOTED.sub(r"\\1…/\\2\\1", text))', "return text",
        "tests/test_logs.py",
    ),
    Mutant(
        "results of a grid given up count for the next", "desk/sheets/try_sheet.py",
        "        self._request = -1\n", "",
        "tests/desk/test_reuse_journeys.py::test_a_grid_of_results_is_tried_and_one_is_kept", fast=False,
    ),
    Mutant(
        "strands stay where a list's notches were", "desk/board/scene.py",
        "moved = set(changed) | tied_anew", "moved = set(changed)",
        "tests/desk/test_hands.py::test_a_list_has_notches_for_the_rows_in_use_and_one_more", fast=False,
    ),
    Mutant(
        "former names are forgotten when a file is read", "weave/versions.py",
        "parameters=known.renamed(node.parameters), formulas=known.renamed(node.formulas)", "",
        "tests/kinds/test_composing.py::test_former_names_are_still_read_in_files_formulas_and_scripts",
        fast=False,
    ),
    Mutant(
        "a colour's share reaches two of its channels", "kernels/blends.py",
        "= amount, amount, amount", "= amount, amount, strength",
        "tests/kinds/test_point_references.py", fast=False,
    ),
    Mutant(
        "two kinds of one seed make the same chances", "kit/kind.py",
        "(int(seed) ^ zlib.crc32(kind_id.encode()))", "(int(seed) ^ 0)",
        "tests/weave/test_fileformat.py::"
        "test_seeds_of_older_files_look_as_they_did_and_kinds_of_one_seed_are_independent", fast=False,
    ),
    Mutant(
        "selecting asks for everything again", "desk/screen/workplace.py",
        "        if wish != self._wish:\n", "        if True:\n",
        "tests/desk/test_screen.py", fast=False,
    ),
    Mutant(
        "a late report of another weave is shown", "desk/screen/workplace.py",
        "or wish.weave != self._weave", "",
        "tests/desk/test_screen.py::test_a_late_report_of_another_weave_is_not_shown", fast=False,
    ),
    Mutant(
        "the views start over for the same picture", "desk/screen/workplace.py",
        "if not gone and all(", "if False and all(",
        "tests/desk/test_screen.py", fast=False,
    ),
    Mutant(
        "labels take markup", "desk/look/words.py",
        "        self.setTextFormat(Qt.TextFormat.PlainText)\n", "",
        f"{SAFETY}::test_no_text_of_a_weave_is_taken_for_markup", fast=False,
    ),
    Mutant(
        "tooltips take markup", "desk/look/words.py",
        'if "<" in plain or "&" in plain:', "if False:",
        f"{SAFETY}::test_no_text_of_a_weave_is_taken_for_markup", fast=False,
    ),
    Mutant(
        "each change puts the keeping off", "desk/frame/recovery.py",
        "if not self._timer.isActive():", "if True:",
        f"{SAFETY}::test_at_most_two_seconds_are_lost_however_busy_the_hands", fast=False,
    ),
    Mutant(
        "pictures of deleted nodes stay", "desk/screen/workplace.py",
        "                del held[gone]\n", "                pass\n",
        f"{SAFETY}::test_small_pictures_of_deleted_nodes_go", fast=False,
    ),
    Mutant(
        "what a killed save left stays", "files.py",
        "        clear_leftovers(target.parent, start, PART)\n", "",
        f"{FILES}::test_what_a_killed_save_left_is_cleared_and_what_another_writes_is_not",
    ),
    Mutant(
        "what another program writes is cleared", "files.py",
        "        fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)\n", "",
        f"{FILES}::test_what_a_killed_save_left_is_cleared_and_what_another_writes_is_not", fast=False,
    ),
    Mutant(
        "saving forgets the mode", "files.py",
        "        _take_after(part, before)\n", "        _take_after(part, None)\n",
        f"{FILES}::test_a_saved_file_stays_what_it_is", fast=False,
    ),
    Mutant(
        "hard links part", "files.py",
        "if before is not None and before.st_nlink > 1:", "if False:",
        f"{FILES}::test_a_saved_file_stays_what_it_is", fast=False,
    ),
    Mutant(
        "a set that fails is not put back", "delivery/recipe.py",
        "                    kept.replace(path)\n", "                    pass\n",
        f"{FILES}::test_a_set_moves_in_as_one_or_is_put_back", fast=False,
    ),
    Mutant(
        "fields may stand twice", "weave/fileformat.py",
        "    if len(fields) < len(pairs):\n", "    if False:\n",
        f"{FILES}::test_hostile_documents_are_refused_in_a_short_sentence",
    ),
    Mutant(
        "crowds are built before they are counted", "weave/fileformat.py",
        "    _check_crowds(raw)\n", "",
        f"{FILES}::test_crowds_are_refused_before_anything_is_built_of_them", fast=False,
    ),
    Mutant(
        "a picture's times are believed", "picture_files.py",
        "state.st_mtime_ns, state.st_ctime_ns)", "state.st_mtime_ns, 0)",
        f"{FILES}::test_a_picture_changed_behind_its_times_is_noticed", fast=False,
    ),
    Mutant(
        "a reading that is stopped goes on elsewhere", "picture_files.py",
        "                program.kill()\n", "                pass\n",
        f"{FILES}::test_a_large_picture_is_read_elsewhere_and_can_be_stopped", fast=False,
    ),
    Mutant(
        "arguments are not looked at", "arguments.py",
        "    if not fits(value):\n", "    if False:\n",
        "tests/test_arguments.py", fast=False,
    ),
    Mutant(
        "numbers lose digits", "kit/formulas.py",
        "        return float(a) / float(b)", "        return np.float32(a) / np.float32(b)",
        f"{FILES}::test_a_number_field_keeps_all_digits_of_its_numbers",
    ),
    Mutant(
        "the system's words reach a maker", "kit/parameters/base.py",
        "            allowed = self.wanted  #", "            allowed = 'float object is not iterable'  #",
        f"{FILES}::test_hostile_documents_are_refused_in_a_short_sentence", fast=False,
    ),
    Mutant(
        "a motif's dials read what stands outside", 'weave/resolve.py',
        "inner = scope_of(motif.dials, use.values, self.document.surface)",
        "inner = scope",
        TWICE,
    ),
    Mutant(
        "what stands in goes before what is tied", "weave/resolve.py",
        "behind = coming or tied.get(STAND_IN)",
        "behind = tied.get(STAND_IN)",
        TWICE,
    ),
    Mutant(
        "a driven value is never held within its range", "weave/dials.py",
        "held = min(max(round(value) if parameter.is_whole else value, low), high)",
        "held = value",
        f"{REUSE}::test_what_a_dial_would_drive_beyond_its_range_is_held_and_told",
    ),
    Mutant(
        "unpacked formulas read the motif's own names", 'weave/unpacking.py',
        "formulas[name] = _rewritten(formula, substitutes)",
        "formulas[name] = formula",
        TWICE,
    ),
    Mutant(
        "packed nodes lose the dials they follow", "weave/edits/packing.py",
        "return dials, {key: key for key in dials}",
        "return dials, {}",
        PACKED,
        fast=False,
    ),
    Mutant(
        "a circle of motifs is let in", "weave/motifs.py",
        "if circle and not inner_first(before)[1]:",
        "if False:",
        f"{REUSE}::test_a_circle_of_motifs_is_refused_and_one_in_a_file_opens_with_its_reason",
    ),
    Mutant(
        "equal motifs are brought twice", "weave/edits/bringing.py",
        "names[key] = known or free_motif_id(held, brought.title or key)",
        "names[key] = free_motif_id(held, brought.title or key)",
        f"{REUSE}::test_pieces_take_their_motifs_along_and_do_not_double_equal_ones",
    ),
    Mutant(
        "new defaults change colourways", "weave/edits/dials.py",
        "plain_settings(changed, old | way.values)",
        "plain_settings(changed, way.values)",
        f"{REUSE}::test_present_values_become_defaults_and_colourways_stay_as_they_look",
        fast=False,
    ),
    Mutant(
        "colours are blended in linear light", "kit/parameters/colours.py",
        "linear_from_oklab(a + (b - a) * share)",
        "np.array(first) + (np.array(second) - np.array(first)) * share",
        f"{REUSE}::test_numbers_run_straight_colours_in_oklab_and_seeds_change_at_the_half",
    ),
    Mutant(
        "motifs stand in each other without end", "weave/resolve.py",
        "        if key in inside:\n",
        "        if False:\n",
        f"{REUSE}::test_a_circle_of_motifs_is_refused_and_one_in_a_file_opens_with_its_reason",
    ),
    Mutant(
        "what is cut is not told", "delivery/recipe.py",
        "                if beyond > 0:\n", "                if beyond > 2:\n",
        "tests/delivery/test_delivery.py::test_what_is_cut_is_told_and_floats_cut_nothing",
        fast=False,
    ),
    Mutant(
        "an order that fails ends all", "delivery/orders.py",
        "            done.trouble = str(error)\n        except Exception",
        "            raise\n        except Exception",
        ORDERS,
        fast=False,
    ),
    Mutant(
        "colourways are not told apart by their names", "delivery/recipe.py",
        'return template.replace("{weave}", "{weave}_{colourway}", 1)',
        "return template",
        ORDERS,
        fast=False,
    ),
    Mutant(
        "relief beyond 0 to 1 is not looked for", "lit/textures.py",
        "(float(picture.min()), float(picture.max()))", "(0.0, 1.0)",
        "tests/lit/test_light.py::test_rays_look_for_the_relief_just_where_its_heights_lie",
    ),
    Mutant(
        "heights are held as they are, though the texture ends at 0 and 1", "lit/textures.py",
        "picture = self.share(picture)", "pass",
        "tests/lit/test_light.py::test_relief_is_the_same_wherever_its_heights_lie",
    ),
    Mutant(
        "vectors are looked up for each pixel by itself", "lit/shaders.py",
        "(float|int|vec2|vec3)", "(float|int|vec2)",
        "tests/lit/test_light.py::test_numbers_reach_pixels_by_way_of_the_corners_and_are_not_too_many",
    ),
    Mutant(
        "a value that is pasted is always a word", "desk/settings/reuse_menu.py",
        "return msgspec.json.decode(text)", "return text.strip()",
        "tests/desk/test_values.py::test_a_value_is_copied_to_another_parameter_that_can_have_it",
    ),
    Mutant(
        "cards in a line are pushed on and not shared out", "weave/arrange.py",
        "    back = sum(new", "    back = 0 * sum(new",
        "tests/weave/test_parts.py::test_aligned_cards_keep_their_order_and_the_middle_and_never_overlap",
    ),
    Mutant(
        "keys that are waited for are carried out", "desk/frame/command_finder.py",
        "if self._drawn.waiting is not None or event.key() == Key.Key_F2:", "if False:",
        f"{BY_NAME}::test_keys_that_are_waited_for_do_nothing_else",
    ),
    Mutant(
        "commands keep the keys they came with beside another's own", "desk/frame/own_keys.py",
        '"" if command.keys in taken else command.keys', "command.keys",
        f"{BY_NAME}::test_no_two_commands_have_the_same_keys_whatever_the_settings_hold",
    ),
    Mutant(
        "letters can be a command's keys", "desk/frame/own_keys.py",
        "key in _FUNCTION_KEYS or", "True or",
        f"{BY_NAME}::test_letters_stay_free",
    ),
    Mutant(
        "a command found by name leaves the keyboard with the finder", "desk/frame/command_finder.py",
        "            self._before.setFocus()", "            pass",
        f"{BY_NAME}::test_a_command_found_by_name_is_done_to_what_had_the_keyboard",
    ),
    Mutant(
        "tips go on naming keys that another command has", "desk/look/shortcuts.py",
        "if event.type() == QEvent.Type.ToolTip:", "if False:",
        f"{BY_NAME}::test_keys_of_ones_own_work_are_shown_and_are_there_at_the_next_start",
    ),
    Mutant(
        "a peek stays when Ctrl is let go", "desk/board/view.py",
        "        elif event.key() == Qt.Key.Key_Control:\n            self.workplace.peek_no_more()\n", "",
        f"{BY_HAND}::test_a_card_is_peeked_at_while_ctrl_is_held",
    ),
    Mutant(
        "what is pinned while peeking is lost after it", "desk/screen/workplace.py",
        '"""Put an output of the board on pin A or B, or take it off."""\n        self._end_peek()\n',
        '"""Put an output of the board on pin A or B, or take it off."""\n',
        f"{BY_HAND}::test_a_card_is_peeked_at_while_ctrl_is_held",
    ),
    Mutant(
        "rays begin too near for deep edges", "data/shaders/relief.frag",
        "WITHIN + max(outward(), depth)", "WITHIN + outward()",
        "tests/lit/test_light.py::test_edges_are_seen_down_to_where_they_are_cut_off",
    ),
    Mutant(
        "what the sheet is cut off at hangs out of what is laid over it", "lit/outline.py",
        "(-0.06 - wall - MARGIN, out)", "(-0.06 - MARGIN, out)",
        "tests/lit/test_light.py::test_nothing_of_an_object_lies_beside_what_is_laid_over_it",
    ),
    Mutant(
        "a ball's cover lies in its circle instead of around it", "lit/outline.py",
        "share * share) / np.cos(np.pi / RING)", "share * share)",
        "tests/lit/test_light.py::test_nothing_of_an_object_lies_beside_what_is_laid_over_it",
    ),
    Mutant(
        "a closed window holds on to its results", "desk/screen/workplace.py",
        "        self._wish = None\n        self.background.close()\n", "        self.background.close()\n",
        "tests/desk/test_screen.py::test_a_closed_window_holds_no_results", fast=False,
    ),
    Mutant(
        "a delivery keeps to itself what nodes say", "delivery/recipe.py",
        "for title, notes in self.notes.items() for note in notes]",
        "for title, notes in () for note in notes]",
        f"{COMMANDS}::test_render_tells_what_nodes_say_of_their_results", fast=False,
    ),
    Mutant(
        "all that is hung has the same seed", "weave/edits/nodes.py",
        "        parameters = _own_seeds(graph, kinds, declared) | dict(self.parameters)\n",
        "        parameters = dict(self.parameters)\n",
        "tests/kinds/test_variation.py::test_no_two_nodes_just_hung_share_their_chances",
    ),
    Mutant(
        "of several cards only the first is set", "desk/settings/several.py",
        "{name: value}) for node_id in self.node_ids)", "{name: value}) for node_id in self.node_ids[:1])",
        "tests/desk/test_values.py::test_several_selected_cards_are_set_together_and_undone_in_one_step",
        fast=False,
    ),
    Mutant(
        "streams of chances are one", "kit/map_formulas.py",
        "unit_chances(0, whole.reshape(-1), number)", "unit_chances(0, whole.reshape(-1), 0)",
        "tests/kinds/test_formulas.py",
    ),
    Mutant(
        "ends are joined across the tile, not around it", "kit/drawing.py",
        "across, down = round(first[-1][0] - second[0][0]), round(first[-1][1] - second[0][1])",
        "across, down = 0, 0",
        "tests/kinds/test_drawn_values.py",
    ),
    Mutant(
        "the end of a closed path stays where it was", "kit/drawing.py",
        "    return (*path, _at(path[0], path[0][0] + closing[0], path[0][1] + closing[1]))\n",
        "    return (*path, path[0])\n",
        "tests/kinds/test_drawn_values.py",
    ),
    Mutant(
        "a path drawn on over the seam forgets its tile", "desk/flat/path_hands.py",
        "        across, down = tile[0] - self._image[0], tile[1] - self._image[1]\n",
        "        across, down = 0, 0\n",
        "tests/desk/test_drawing.py", fast=False,
    ),
    Mutant(
        "numbers of a formula make maps twice as wide", "kit/formulas.py",
        '"_mul": _weak(np.multiply)', '"_mul": np.multiply',
        "tests/kinds/test_formulas.py::test_maps_of_a_formula_stay_at_32_bits",
    ),
    Mutant(
        "what was set aside is never looked at again", "desk/screen/collector.py",
        "            gc.unfreeze()\n", "            pass\n",
        "tests/desk/test_look.py::test_garbage_is_collected_a_part_at_a_time_and_in_the_end_all_of_it",
    ),
    Mutant(
        "pictures are made while the book is scrolled", "desk/sheets/book_model.py",
        "self._until = monotonic() + MOMENT", "self._until = monotonic()",
        "tests/desk/test_by_keys.py::test_pictures_of_the_book_wait_while_it_is_scrolled",
    ),
    Mutant(
        "Qt's binding reads all sources", "desk/__init__.py",
        "builtins.__import__ = _own\n", "",
        "tests/desk/test_opening.py::test_an_empty_window_is_painted_before_kinds_and_sources_are_read",
    ),
    Mutant(
        "maps are divided the other way round", "kit/formulas.py",
        "np.divide(a, np.where(np.equal(b, 0), np.float32(1), b))",
        "np.divide(np.where(np.equal(b, 0), np.float32(1), b), a)",
        "tests/kinds/test_formula_properties.py",
    ),
    Mutant(
        "the view waits until all is painted", "desk/flat/flat_panel.py",
        "        self.canvas.repaint()  # before", "        self.canvas.update()  # before",
        "tests/desk/test_dragging.py", fast=False,
    ),
    Mutant(
        "a rail slot does not look whether its map is another", "desk/board/rail.py",
        "state = (end, look and look.ref, ", "state = (end, ",
        "tests/desk/test_dragging.py", fast=False,
    ),
    Mutant(
        "a result that came is painted but for its right edge", "desk/sheets/try_sheet.py",
        "= image\n        self.update(self.box(number)",
        "= image\n        self.update(self.box(number).adjusted(0, 0, -9, 0)",
        "tests/desk/test_reuse_journeys.py::test_a_grid_of_results_is_tried_and_one_is_kept", fast=False,
    ),
    Mutant(
        "a weave opens with whatever lies above its first note", "desk/board/view.py",
        "max(note.y() - high * 0.4, box.top())", "note.y() - high * 0.4",
        "tests/desk/test_opening.py", fast=False,
    ),
    Mutant(
        "a window that could not be put together leaves no style", "desk/look/theme.py",
        "    finally:\n        application.setStyleSheet(sheet)", "    finally:\n        pass",
        "tests/desk/test_opening.py", fast=False,
    ),
    Mutant(
        "what cannot be resolved is tried again at every size", "desk/screen/trial.py",
        "                if flat is not None:\n", "                if flat is None:\n",
        "tests/desk/test_trial.py", fast=False,
    ),
    Mutant(
        "another order of dials passes for no change", "weave/session.py",
        "(one == other and _orders(one) == _orders(other))", "one == other",
        "tests/weave/test_reuse.py::test_an_order_of_dials_and_colourways_is_a_step_and_is_saved",
    ),
    Mutant(
        "the window's shortcuts come before the part that has the keyboard", "desk/look/keys.py",
        "        event.accept()\n        return True", "        return False",
        "tests/desk/test_by_keys.py", fast=False,
    ),
    Mutant(
        "a slider takes the keys that move a dial or a layer", "desk/look/keys.py",
        '(("Alt+Up", -1), ("Alt+Down", 1))', '(("Alt+Up", -1),)',
        "tests/desk/test_by_keys.py::test_dials_change_places_by_keys_and_by_their_grips", fast=False,
    ),
    Mutant(
        "the keyboard is lost with a colourway that is left out", "desk/sheets/colourways_panel.py",
        "            list(self.tiles.values())[min(place, len(self.tiles) - 1)].setFocus()",
        "            pass",
        "tests/desk/test_by_keys.py::"
        "test_colourways_are_gone_through_renamed_ordered_and_left_out_by_keys", fast=False,
    ),
    Mutant(
        "a layer that is moved by keys leaves the keyboard behind", "desk/settings/series.py",
        "            moved[min(which, len(moved) - 1)].setFocus()", "            pass",
        "tests/desk/test_values.py::"
        "test_layers_show_their_pictures_and_are_dragged_into_another_order", fast=False,
    ),
    Mutant(
        "a rectangle that is called off forgets what was selected", "desk/board/hands.py",
        "self.view.workplace.select(self.earlier)", "self.view.workplace.select(self.before)",
        "tests/desk/test_board_by_hand.py::test_the_board_is_moved_zoomed_and_its_gestures_called_off",
        fast=False,
    ),
)  # fmt: skip
