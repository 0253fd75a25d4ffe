"""Small wrong changes to kernels that read, filter and measure maps, each with the tests that fail for it."""

from __future__ import annotations

from mutant import FILTERS, LANES, LAWS, MAPS, NOISE, Mutant

NEW_MAPS = "tests/kernels/test_maps.py"

MUTANTS = (
    Mutant(
        "distances end at the seam", "kernels/distance.py",
        "    for turn in range(2):  # the second turn knows what lies above the tile's top\n",
        "    last[:] = -4 * FAR\n    for turn in range(1, 2):\n",
        f"{LAWS}::test_every_kind_keeps[bevel-commutes_with_a_shift]", fast=False,
    ),
    Mutant(
        "what is read at its own size is spread as if it shrank", "kernels/cover_lanes.py",
        "b.fsub(b.fmul(whole, whole), b.fmul(part, part))", "b.fmul(whole, whole)",
        "tests/kernels/test_covered.py::test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it",
        fast=False,
    ),
    Mutant(
        "a map that is only turned is averaged", "kernels/cover_lanes.py",
        "ONE = 1.01", "ONE = 1.0",
        "tests/kernels/test_covered.py::test_a_map_that_is_only_turned_is_read_and_not_averaged", fast=False,
    ),
    Mutant(
        "a place that is no number is left unread where all others shrink", "kernels/pyramid.py",
        "across[x] = longer if wide + high >= 0 else f(0)", "across[x] = longer",
        "tests/kernels/test_covered.py::test_a_place_that_is_no_number_hides_none_that_shrinks", fast=False,
    ),
    Mutant(
        "a sample is read in one row of places", "kernels/cover_lanes.py",
        'v.all_of("fmuladd", row, plan.steps[1][axis], plan.first[axis])', "plan.first[axis]",
        "tests/kernels/test_covered.py::test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it",
        fast=False,
    ),
    Mutant(
        "samples that cover much are read at a size too fine", "kernels/cover_lanes.py",
        "v.splat(v.int(127)))", "v.splat(v.int(128)))",
        "tests/kernels/test_covered.py::test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it",
        fast=False,
    ),
    Mutant(
        "what a sample covers stops at the tile's seam", "kernels/cover_lanes.py",
        "after = b.select(is_last, none, b.add(before, one))",
        "after = b.select(is_last, last, b.add(before, one))",
        "tests/kernels/test_covered.py::test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it",
        fast=False,
    ),
    Mutant(
        "a way on which a noise changes is read once", "kernels/places.py",
        "_square(down[2 * x] * u, down[2 * x + 1] * v)", "_square(down[2 * x] * u, np.float32(0))",
        f"{NOISE}::test_noise_at_places_is_the_mean_over_each_sample_in_one_pass_or_many", fast=False,
    ),
    Mutant(
        "a median's outermost columns count whole", "kernels/medians.py",
        "part_u = np.int64((radius[0] - whole_u) * WHOLE + 0.5)", "part_u = np.int64(WHOLE)",
        f"{LANES}::test_median_lies_where_half_of_the_box_is_below", fast=False,
    ),
    Mutant(
        "rows leave a median's box whole", "kernels/medians.py",
        "np.int32(-part_v), np.int32(-rest_v)", "none, np.int32(-one)",
        f"{LANES}::test_median_lies_where_half_of_the_box_is_below", fast=False,
    ),
    Mutant(
        "a blur across is forgotten where few frequencies are kept", "kernels/gauss.py",
        "both * across[which], out", "both + 0 * across[which], out",
        f"{LANES}::test_a_blur_leaves_of_each_wave_what_a_gaussian_leaves", fast=False,
    ),
    Mutant(
        "splines ring", "kernels/reading.py",
        "out[c] = min(max(total, min(p, q, r, s)), max(p, q, r, s))", "out[c] = total",
        "tests/kernels/test_filter_references.py", fast=False,
    ),
    Mutant(
        "of rows that go down the source the rest is not read", "kernels/reading.py",
        "row * n + right, spline", "row * n + left + wide, spline",
        f"{FILTERS}::test_rows_that_run_down_the_source_are_read_like_others", fast=False,
    ),
    Mutant(
        "a swirl falls off in a straight line", "kernels/place_lanes.py",
        "v.all_of(\"fmuladd\", v.constant(-2), fall, v.constant(3))", "v.constant(1)",
        "tests/kinds/test_forms.py::"
        "test_a_swirl_turns_about_its_middle_and_leaves_what_lies_beyond_its_radius", fast=False,
    ),
    Mutant(
        "memory of maps is lost with them", "kernels/maps.py",
        "        finalize(self, _give_back, stretch).atexit = False\n", "        pass\n",
        NEW_MAPS,
    ),
    Mutant(
        "memory of maps waits without end", "kernels/maps.py",
        "            _hand_back(MOST)\n", "            pass\n", NEW_MAPS,
    ),
    Mutant(
        "a map takes only the memory of one of its size", "kernels/maps.py",
        "while done < pieces and _waiting:", "while False:", NEW_MAPS,
    ),
    Mutant(
        "a map takes the same pieces as the one before", "kernels/maps.py",
        "_waiting.appendleft(Stretch(address + count * PIECE, pieces - count))",
        "_waiting.appendleft(Stretch(to, count))", NEW_MAPS,
    ),
    Mutant(
        "a blur by sums takes one row twice", "kernels/gauss.py",
        "around(y - k - 2, height) * width, around(y - k - 3, height) * width,",
        "around(y - k - 2, height) * width, around(y - k - 2, height) * width,",
        f"{LANES}::test_a_blur_leaves_of_each_wave_what_a_gaussian_leaves",
    ),
    Mutant(
        "pictures are lit from below", "kernels/pictures.py",
        "(one - down[k] * two)", "(down[k] * two - one)",
        "tests/preview/test_encodings.py::test_a_material_in_light",
    ),
    Mutant(
        "a block's lower right sample is not in its mean", "kernels/resize.py",
        "+ source[i + below, j + right, c]", "+ source[i + below, j, c]",
        f"{MAPS}::test_halving_is_the_mean_of_each_block", fast=False,
    ),
    Mutant(
        "beyond the tile's end the horizon is seen from its beginning", "kernels/horizon.py",
        "= surface[:, width : width + beyond]", "= surface[:, beyond : 2 * beyond]",
        f"{MAPS}::test_the_open_sky_of_every_sample_is_the_slow_definition", fast=False,
    ),
    Mutant(
        "ways are cut in four as soon as in two", "kernels/places.py",
        "(twice & np.int32(a > finer * finer))", "(twice & np.int32(a > fine * fine))",
        f"{MAPS}::test_samples_are_read_as_often_as_noise_changes_in_them", fast=False,
    ),
    Mutant(
        "whole cycles within a sample are left out", "kernels/tones.py",
        "(turns - first) * whole", "0.0 * whole",
        f"{MAPS}::test_what_a_wave_covers_is_its_mean", fast=False,
    ),
    Mutant(
        "old samples cut by two new ones go to the first", "kernels/resize.py",
        "min(i + 1, end) - max(i, start)) / step", "i + 1 - max(i, start)) / step",
        f"{MAPS}::test_maps_shrink_to_the_means_of_what_samples_cover", fast=False,
    ),
    Mutant(
        "rows cut by two new ones go to both whole", "kernels/resize.py",
        "np.float32((min(i + 1, end) - max(i, start)) / down)", "np.float32(1 / down)",
        f"{MAPS}::test_maps_shrink_to_the_means_of_what_samples_cover", fast=False,
    ),
    Mutant(
        "a table ends where it should be level", "kernels/tones.py",
        "high - np.float64(b)", "min(high - np.float64(b), 1.0)",
        f"{MAPS}::test_a_table_averaged_is_its_mean_over_what_a_sample_covers", fast=False,
    ),
    Mutant(
        "a line of least cost never goes to the right", "kernels/seams.py",
        "x < n - 1 and before[x + 1] < best", "x < n - 1 and before[x + 1] < 0.0",
        "tests/kernels/test_seams.py::test_the_line_is_the_least_of_all_that_close",
    ),
    Mutant(
        "slopes are joined by the share on one side of them", "kernels/seams.py",
        "np.float32(0.5) * (shares[0] + shares[1])", "shares[0]",
        "tests/kernels/test_seams.py::test_bends_are_what_joined_slopes_change_around_the_tile", fast=False,
    ),
    Mutant(
        "a line looks at the joints of one of two pictures", "kernels/seams.py",
        "max(one[x], other[x]) / spread", "one[x] / spread",
        "tests/kernels/test_seams.py::test_what_a_line_costs_is_little_where_pictures_are_alike_and_both_deep",
        fast=False,
    ),
    Mutant(
        "what bends begins as if nothing lay above the tile", "kernels/seams.py",
        "        _sum_row(waves[height - enough + y, first:last], root, sums)\n", "        pass\n",
        "tests/kernels/test_seams.py::test_what_bends_as_told_is_found_around_the_tile", fast=False,
    ),
    Mutant(
        "how far a picture rises is told from its tones", "kernels/seams.py",
        "            rise += line[x]\n", "            rise += line[x] + other[x]\n",
        "tests/kernels/test_seams.py::test_rises_are_summed_as_they_are_made", fast=False,
    ),
    Mutant(
        "the waves of one band of columns are all changed as those of the first", "kernels/spectral.py",
        "slice(x0, x1))", "slice(0, x1 - x0))",
        "tests/kernels/test_seams.py::test_what_bends_as_told_is_found_around_the_tile", fast=False,
    ),
    Mutant(
        "maps read as one come back in each other's place", "kernels/pyramid.py",
        "[map.reshape(-1)] * channels", "[maps[0].reshape(-1)] * channels",
        "tests/kinds/test_reading.py::test_maps_of_a_material_are_read_as_each_is_by_itself", fast=False,
    ),
    Mutant(
        "what covers no more than one is left as it was wherever another shrinks", "kernels/pyramid.py",
        "if least.min() > SURELY:", "if least.max() > SURELY:",
        "tests/kernels/test_covered.py::test_what_a_sample_covers_is_the_mean_of_readings_spread_over_it",
        fast=False,
    ),
    Mutant(
        "a point of cells that may be nearer is passed by", "kernels/minkowski.py",
        "abs(pv - v[x])) < so_far[x]\n", "abs(pv - v[x])) < so_far[x] - np.float32(0.2)\n",
        "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "places are moved down by what moves them across", "kernels/places.py",
        "to_right, below = us[y], vs[y]", "to_right, below = us[y], us[y]",
        f"{MAPS}::test_places_move_by_each_rows_ways", fast=False,
    ),
    Mutant(
        "of four steps of a ray the farthest hides nothing", "kernels/horizon.py",
        "third if third > fourth else fourth", "third",
        f"{MAPS}::test_the_open_sky_of_every_sample_is_the_slow_definition", fast=False,
    ),
    Mutant(
        "a ray's last steps are taken together with the next ray's first", "kernels/horizon.py",
        "min(k + 3, end[ray] - 1)", "min(k + 3, count - 1)",
        f"{MAPS}::test_the_open_sky_of_every_sample_is_the_slow_definition", fast=False,
    ),
    Mutant(
        "bytes of all samples are those of the first few", "kernels/pictures.py",
        "some, laid = values[start:], out[start:]", "some, laid = values, out[start:]",
        "tests/preview/test_encodings.py::test_bytes_are_the_nearest_held_within_the_range", fast=False,
    ),
    Mutant(
        "light of all samples is that of the first few", "kernels/pictures.py",
        "take_apart(normal, start, n, channels)", "take_apart(normal, 0, n, channels)",
        "tests/preview/test_encodings.py::test_a_material_in_light", fast=False,
    ),
    Mutant(
        "what counts below a median's level stays as the box moves", "kernels/medians.py",
        "(np.int32(new - old) if is_below else np.int32(0))", "np.int32(0)",
        f"{LANES}::test_median_lies_where_half_of_the_box_is_below", fast=False,
    ),
)  # fmt: skip
