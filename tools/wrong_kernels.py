"""Small wrong changes to kernels, each with the tests that must fail for it; see also `wrong_maps`."""

from __future__ import annotations

from mutant import EVALUATION, FILTERS, LAWS, MAPS, Mutant

PROGRAMS = "tests/kinds/test_formula_properties.py"

MUTANTS = (
    Mutant(
        "forms are stretched with the tile", "kernels/forms.py",
        "            b *= aspect\n", "",
        f"{LAWS}::test_every_kind_keeps[disc-draws_forms_in_widths]",
        fast=False,
    ),
    Mutant(
        "forms do not cross the seam", "kernels/forms.py",
        "a, b = short_way(a), short_way(b)", "b = short_way(b)",
        f"{LAWS}::test_every_kind_keeps[disc-tiles]",
    ),
    Mutant(
        "copies of a turned form lie as if it were not turned", "kernels/forms.py",
        "beside_u[y, x] = u[y, x] - (c * a + s * b)", "beside_u[y, x] = u[y, x] - a",
        "tests/kinds/test_forms.py", fast=False,
    ),
    Mutant(
        "pieces are left out that some samples of a block are nearest to", "kernels/outlines.py",
        "beyond = more * more > broad", "beyond = more * more > np.float32(0.1) * broad",
        "tests/kernels/test_outlines.py", fast=False,
    ),
    Mutant(
        "blocks are beyond a limit where their middle is", "kernels/outlines.py",
        "never, -1, far + reach", "never, -1, far",
        "tests/kernels/test_outlines.py", fast=False,
    ),
    Mutant(
        "directions from a middle are stretched with the tile", "kernels/polar.py",
        "short_way(down[x] - middle[1]) * aspect", "short_way(down[x] - middle[1])",
        "tests/kernels/test_outlines.py",
    ),
    Mutant(
        "scales of every row lie below one another", "kernels/scales.py",
        "at -= half * np.float32(above & np.int32(1))", "at -= np.float32(0.0)",
        "tests/kernels/test_pattern_references.py", fast=False,
    ),
    Mutant(
        "the element above a sample does not count for its border", "kernels/elements.py",
        " | (above[middle] ^ own)", "",
        "tests/kernels/test_elements.py::test_borders_are_where_a_neighbour_is_of_another_element",
        fast=False,
    ),
    Mutant(
        "elements without gaps fade at their edges", "kernels/elements.py",
        "if gap <= 0.0:", "if gap < 0.0:",
        "tests/kernels/test_elements.py::test_elements_are_seen_by_definition", fast=False,
    ),
    Mutant(
        "chances depend on the lattice's size", "kernels/hashing.py",
        "def unit_lattice(", "def unit_lattice(seed, columns, rows, *a, **k):\n"
        "    return _unit_lattice(seed + columns, columns, rows, *a, **k)\n\n\ndef _unit_lattice(",
        "tests/kernels/test_jit.py", fast=False,
    ),
    Mutant(
        "growth looks for food on one side of the seam", "kernels/growth.py",
        "du = _short(at_u[row, column] - us[n], 1.0)", "du = at_u[row, column] - us[n]",
        "tests/kinds/test_growth.py::test_a_tree_grows_by_the_rules", fast=False,
    ),
    Mutant(
        "a bow is measured from the middle alone", "kernels/stamp_lanes.py",
        "q, q, v.constant(-BOW_MEAN))", "q, q, v.constant(0))",
        "tests/kinds/test_composing.py::test_a_bent_stamp_is_its_drawing_along_a_bow", fast=False,
    ),
    Mutant(
        "two contours through a saddle are joined the wrong way", "kernels/contours.py",
        "step = 3 if middle > np.float32(4) * level else 1",
        "step = 1 if middle > np.float32(4) * level else 3",
        "tests/kinds/test_path_making.py", fast=False,
    ),
    Mutant(
        "paths are filled by odd crossings whatever is asked", "kernels/fills.py",
        "inside = n % 2 == 0 if rule == EVEN_ODD else wound != 0", "inside = n % 2 == 0",
        "tests/kinds/test_path_making.py", fast=False,
    ),
    Mutant(
        "a tree grows by the longest join", "kernels/joining.py",
        "if left[i] and away[i] < best:", "if left[i] and (best > 1e299 or away[i] > best):",
        "tests/kinds/test_path_making.py", fast=False,
    ),
    Mutant(
        "splines over many samples ring", "kernels/lanes.py",
        "return v.hold(v.weigh(across, totals), least[1:3], most[1:3])", "return v.weigh(across, totals)",
        "tests/kinds/test_reading.py::test_a_mask_read_elsewhere_stays_a_mask", fast=False,
    ),
    Mutant(
        "four samples are weighed down by the share of the first", "kernels/lanes.py",
        "v.each_of(share, group)", "v.each_of(share, 0)",
        f"{FILTERS}::test_sampling_is_wrapped_interpolation", fast=False,
    ),
    Mutant(
        "columns of samples stand in the order of groups", "kernels/vectors.py",
        "[LANES * which + four + at for four in fours for which, at in order]",
        "[LANES * which + four + at for which, at in order for four in fours]",
        f"{FILTERS}::test_sampling_is_wrapped_interpolation", fast=False,
    ),
    Mutant(
        "every piece of a stroke is drawn by itself", "kernels/stroke_pieces.py",
        "            if away - radius < near[n, APART]:\n", "            if True:\n",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "curves through knots heed no distance", "kernels/knots.py",
        "    a = np.sqrt(np.maximum(np.linalg.norm(one - zero, axis=1), 1e-12))[:, None]\n",
        "    a = np.ones((len(one), 1))\n",
        "tests/kernels/test_knots.py",
    ),
    Mutant(
        "paths are kept apart on this tile only", "kernels/spacing.py",
        "du, dv = min(du, 1.0 - du), min(dv, height - dv)", "du, dv = du, dv",
        "tests/kinds/test_growing.py", fast=False,
    ),
    Mutant(
        "closed strokes have ends", "kernels/strokes.py",
        "brush.flat_ends and not courses.closed[number], ", "brush.flat_ends, ",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "strokes end at their first bend", "kernels/stroke_pieces.py",
        "else min(turns, 1.0)", "else min(turns, -1.0)",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "films on metal take its reflection for real", "kernels/observer.py",
        "- float(2 * top * foot.imag) * along", "",
        "tests/lit/test_light.py::test_reflectance_of_a_film_is_both_polarisations_summed_without_end",
    ),
    Mutant(
        "a stretch of a stamp ends a sample early", "kernels/stamp_lanes.py",
        "    inside = v.before(x, end)\n", "    inside = v.before(x, b.sub(end, v.long(1)))\n",
        "tests/kinds/test_points.py::test_stamps_are_those_of_a_slow_direct_renderer", fast=False,
    ),
    Mutant(
        "what is in no region has a way from its middle", "kernels/regions.py",
        "out[y, x, c] = way if k > 0 else 0.0", "out[y, x, c] = way",
        f"{MAPS}::test_ways_from_middles_are_the_shortest_ones_moved", fast=False,
    ),
    Mutant(
        "a drawing's ink is its height alone", "kernels/stamps.py",
        "ink += height[down * y + i, across * x + j] * m", "ink += height[down * y + i, across * x + j]",
        f"{MAPS}::test_a_stamps_sheet_is_its_drawing_averaged", fast=False,
    ),
    Mutant(
        "dots do not go around the tile downwards", "kernels/marks.py",
        "        j = around(row, rows)", "        j = min(max(row, 0), rows - 1)",
        "tests/kernels/test_marks.py",
    ),
    Mutant(
        "a course joins one path to the next", "kernels/marks.py",
        "        if here.path != next_.path:", "        if here.path > next_.path:",
        "tests/kernels/test_marks.py",
    ),
    Mutant(
        "the tile's shape does not count for how long paths are", "kernels/path_loops.py",
        "dv = (part[k].v - part[k - 1].v) * aspect", "dv = part[k].v - part[k - 1].v",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "braided strands go over and under as seldom as twisted ones", "kernels/path_loops.py",
        "above = 2 * above * out  #", "above = above * 1  #",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "even corners leave the last pieces of a path out", "kernels/path_loops.py",
        "while k + 1 < last and run[k + 1] <= at:", "while k + 2 < last and run[k + 1] <= at:",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "what winds goes around as often on short paths as on long ones", "kernels/path_loops.py",
        "per = turns[n] / max(run[end - 1], 1e-12)", "per = turns[n]",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "paths begin on whatever tile they come from", "kernels/path_loops.py",
        "np.floor(part[0].v) * height", "0.0",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "the way to the right is the way to the left", "kernels/path_loops.py",
        "-v / length, u / length", "v / length, -u / length",
        "tests/kernels/test_path_loops.py",
    ),
    Mutant(
        "a dart does not look beyond the tile's lower end", "kernels/scatter.py",
        "else around(y + j - 1, rows)", "else max(0, min(y + j - 1, rows - 1))",
        "tests/kinds/test_points.py::test_scattered_points_keep_apart_and_more_leave_the_others_in_place",
    ),
    Mutant(
        "a tied mask is taken as far as it goes", "kernels/stamps.py",
        "min(max(m, np.float32(0)), np.float32(1))", "m",
        f"{MAPS}::test_a_stamps_sheet_is_its_drawing_averaged", fast=False,
    ),
    Mutant(
        "a dart does not look to its right", "kernels/scatter.py",
        "for i in range(columns if few_columns else 3)", "for i in range(columns if few_columns else 2)",
        "tests/kernels/test_scatter.py",
    ),
    Mutant(
        "whoever reads a kept table may change it", "kernels/curves.py",
        "_curve_table(plain_knots(knots)).copy()", "_curve_table(plain_knots(knots))",
        f"{EVALUATION}::test_a_kept_table_is_not_changed_by_who_reads_it",
    ),
    Mutant(
        "cells of rows moved far are not carried around the tile", "kernels/mosaic.py",
        "                along -= np.floor(along / wide) * wide\n", "",
        f"{MAPS}::test_cells_are_averaged_over_the_box_a_sample_covers", fast=False,
    ),
    Mutant(
        "a yarn passes to the far side of the next crossing", "kernels/cloth.py",
        "return before if part < 0.5 else after", "return after if part < 0.5 else before",
        "tests/kernels/test_pattern_references.py::test_yarns_cross_as_in_plain_numpy", fast=False,
    ),
    Mutant(
        "the yarn beneath gives its own chance", "kernels/cloth.py",
        "_choose(over, lines[5], lines[6]", "_choose(over, lines[6], lines[5]",
        "tests/kernels/test_pattern_references.py::test_yarns_cross_as_in_plain_numpy", fast=False,
    ),
    Mutant(
        "short pieces of a stroke leave out what is past their ends", "kernels/stroke_pieces.py",
        "(gone <= lanes[HIGH * LANES + j])", "(gone <= 0.5 * lanes[HIGH * LANES + j])",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "of pieces looked at together the last counts", "kernels/stroke_pieces.py",
        "if lanes[FOUND * LANES + j] < best:", "if lanes[FOUND * LANES + j] < 1e9:",
        "tests/kernels/test_strokes.py", fast=False,
    ),
    Mutant(
        "pieces looked at together end at the tile's seam", "kernels/stroke_pieces.py",
        "            column = column + 1 if column + 1 < columns else 0\n            for j",
        "            column = min(column + 1, columns - 1)\n            for j",
        "tests/kernels/test_strokes.py", fast=False,
    ),
    Mutant(
        "only the first and the last piece of a stroke know its flat ends", "kernels/strokes.py",
        "        if is_flat:\n", "        if is_flat and k in (start, end):\n",
        "tests/kinds/test_paths.py::test_strokes_look_the_same_however_many_corners_they_have", fast=False,
    ),
    Mutant(
        "samples two columns further on are taken a column further on", "kernels/lanes.py",
        'icmp_unsigned(">", step, v.splat(v.int(1)))', 'icmp_unsigned(">", step, v.splat(v.int(2)))',
        f"{FILTERS}::test_rows_that_run_nearly_as_the_source_does_are_read_like_others", fast=False,
    ),
    Mutant(
        "samples a row further down are read in the row of the others", "kernels/lanes.py",
        "b.select(self.lower, *both)", "b.select(self.right, *both)",
        f"{FILTERS}::test_rows_that_run_nearly_as_the_source_does_are_read_like_others", fast=False,
    ),
    Mutant(
        "the first channel of colours is averaged with the others' steps", "kernels/table_lanes.py",
        "v.long(2 * CHANNELS))\n", "v.long(2 * CHANNELS + 1))\n",
        f"{MAPS}::test_a_table_averaged_is_its_mean_over_what_a_sample_covers", fast=False,
    ),
    Mutant(
        "the end of what a sample covers is its beginning", "kernels/table_lanes.py",
        "(b.fsub(middle, half), b.fadd(middle, half))", "(b.fsub(middle, half), b.fsub(middle, half))",
        f"{MAPS}::test_a_table_averaged_is_its_mean_over_what_a_sample_covers", fast=False,
    ),
    Mutant(
        "what lies before the first cell lies in it", "kernels/mosaic_lanes.py",
        "b.fadd(first, count), first), share", "v.constant(0), first), share",
        f"{MAPS}::test_cells_are_averaged_over_the_box_a_sample_covers", fast=False,
    ),
    Mutant(
        "more than a cell is averaged across", "kernels/mosaic_lanes.py",
        "v.constant(0.5)), v.constant(0.5))", "v.constant(0.5)), v.constant(0.9))",
        f"{MAPS}::test_cells_are_averaged_over_the_box_a_sample_covers", fast=False,
    ),
    Mutant(
        "what is left of a row of cells is read from the row's beginning", "kernels/mosaic.py",
        "reach[x] = covered[last + x]", "reach[x] = covered[x]",
        f"{MAPS}::test_cells_are_averaged_over_the_box_a_sample_covers", fast=False,
    ),
    Mutant(
        "hues from green are told as those from blue", "kernels/hues.py",
        "from_green = np.float32(2.0)", "from_green = np.float32(4.0)",
        "tests/kernels/test_hues.py::test_hue_saturation_and_value_are_the_standard_librarys", fast=False,
    ),
    Mutant(
        "a colour of no saturation keeps its hue", "kernels/hues.py",
        "np.float32(1.0) + saturation * (held", "np.float32(1.0) + (held",
        "tests/kernels/test_hues.py::test_hues_of_a_turn_give_the_standard_librarys_colours", fast=False,
    ),
    Mutant(
        "a hue is laid with the saturation of its own colour", "kernels/blends.py",
        "            _fill_saturation(lower, n, rich)\n", "            _fill_saturation(upper, n, rich)\n",
        "tests/kinds/test_tones_and_blends.py", fast=False,
    ),
    Mutant(
        "colours that are too light are shrunk to what is too dark", "kernels/blends.py",
        "left = lifted * lowered", "left = lifted",
        "tests/kinds/test_tones_and_blends.py", fast=False,
    ),
    Mutant(
        "soft light takes roots of dark tones", "kernels/blends.py",
        "root = dark if held", "root = held if held",
        "tests/kinds/test_tones_and_blends.py", fast=False,
    ),
    Mutant(
        "a cell's load goes on twice to the right", "kernels/rain.py",
        "held[x] -= right[x] + left[x] + down[x] + up[x]",
        "held[x] -= left[x] + down[x] + up[x]",
        "tests/kernels/test_weather.py",
    ),
    Mutant(
        "rain runs off the tile's last row", "kernels/rain.py",
        "        _wrap(flow[side])\n        _wrap(sent[side])", "        _wrap(flow[side])",
        "tests/kernels/test_weather.py",
    ),
    Mutant(
        "stains end at the tile's right edge", "kernels/stains.py",
        "now[(i + 1) % width] * part", "now[min(i + 1, width - 1)] * part",
        "tests/kernels/test_weather.py",
    ),
    Mutant(
        "strokes of small maps are always drawn in one piece", "kit/context.py",
        "(self.width * max(work, 1.0))", "self.width",
        "tests/kernels/test_strokes.py::"
        "test_many_corners_are_drawn_in_bands_that_others_share_in_on_small_maps_too", fast=False,
    ),
    Mutant(
        "samples that reach into a stretch count as beyond it", "kernels/fractals.py",
        "if cells * least >= at[part + 1]:", "if cells * most >= at[part + 1]:",
        "tests/kernels/test_noise_references.py::"
        "test_what_samples_lose_of_a_noise_is_told_from_what_they_keep", fast=False,
    ),
    Mutant(
        "each run of a program reads the first samples", "kernels/programs.py",
        "copy_numbers(maps[i], np.int64(start),", "copy_numbers(maps[i], np.int64(0),",
        f"{PROGRAMS}::test_a_program_gives_what_its_formula_gives", fast=False,
    ),
    Mutant(
        "a row is taken over while a step still needs it", "kit/programs.py",
        'if row[0] == "step" and last[row] == number', 'if row[0] == "step"',
        f"{PROGRAMS}::test_a_program_gives_what_its_formula_gives",
    ),
    Mutant(
        "programs divide by the number 0", "kit/programs.py",
        "self.divisors.add(parts[1][1])", "pass",
        f"{PROGRAMS}::test_a_program_divides_by_no_number_0",
    ),
)  # fmt: skip
