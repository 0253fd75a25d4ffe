"""Small wrong changes to kinds of nodes, each with the tests that must fail for it."""

from __future__ import annotations

from mutant import FILES, LAWS, NOISE, PATTERNS, Mutant

STRENGTHS = "tests/kinds/test_strengths.py"

MUTANTS = (
    Mutant(
        "the vein of a bent petal stays straight", "kinds/shape/petal.py",
        "- aside + lean * along * along", "",
        "tests/kinds/test_forms.py::test_a_vein_sinks_into_a_petal_along_its_middle", fast=False,
    ),
    Mutant(
        "of equal peaks beside one another none counts", "kinds/points/map_points.py",
        "own >= before", "own > before",
        "tests/kinds/test_points.py::test_peaks_are_above_all_around_and_of_equal_ones_the_first", fast=False,
    ),
    Mutant(
        "what is laid over a map is taken as a whole", "kinds/combine/modes.py",
        "if share is None and strength == 1:", "if share is None:",
        "tests/kinds/test_point_references.py::test_a_blend_goes_a_share_of_the_way", fast=False,
    ),
    Mutant(
        "small maps rest on a ground twice as coarse", "kinds/points/stamp.py",
        "cells >= 2 * CELLS_A_SAMPLE * max(", "cells >= CELLS_A_SAMPLE * max(",
        "tests/kinds/test_points.py::test_resting_stamps_far_larger_than_the_tile_are_laid_on_a_coarser_ground",
    ),
    Mutant(
        "a flow at places counts one side less", "kinds/noise/flow_noise.py",
        "for side in (1.0, -1.0)]", "for side in (1.0, -0.5)]",
        f"{NOISE}::test_noise_at_places_is_the_noise_of_the_grid", fast=False,
    ),
    Mutant(
        "a swirl ends at the tile's seam", "kinds/warp/swirl.py",
        "start, opening = start + count, False", "start, opening = end, False",
        "tests/kinds/test_forms.py::"
        "test_a_swirl_turns_about_its_middle_and_leaves_what_lies_beyond_its_radius", fast=False,
    ),
    Mutant(
        "a kind writes into its input", "kinds/tone/invert.py",
        ") -> np.ndarray:\n", ") -> np.ndarray:\n    map *= np.float32(1)\n",
        f"{LAWS}::test_every_kind_keeps[invert-survives_any_size_and_input]",
    ),
    Mutant(
        "a blur is stretched with the tile", "kinds/filter/blur.py",
        "gaussian_blur(map, context.shares(radius), context.bands)",
        "gaussian_blur(map, (radius, radius), context.bands)",
        f"{LAWS}::test_every_kind_keeps[blur-measures_in_widths]",
    ),
    Mutant(
        "open cells are not kept square", "kinds/noise/noise_parts.py",
        "round(cells * context.aspect)", "cells",
        f"{LAWS}::test_every_kind_keeps[gradient_noise-keeps_cells_square]",
    ),
    Mutant(
        "a setting that matters is hidden", "kinds/noise/wave.py",
        'shown_if={"form": "bands"}', 'shown_if={"form": "rings"}',
        f"{LAWS}::test_every_kind_keeps[wave-hides_only_what_changes_nothing]",
        fast=False,
    ),
    Mutant(
        "normals are mixed by half", "kinds/height/normals.py",
        "ay * rest + by * t", "ay * rest + by * rest", "tests/kinds/test_point_references.py", fast=False,
    ),
    Mutant(
        "a bend takes one channel's mean from both", "kinds/place/bend_place.py",
        "(by[k, 1] - mean[1])", "(by[k, 1] - mean[0])", "tests/kinds/test_point_references.py", fast=False,
    ),
    Mutant(
        "dirt reads its amount at one sample", "kinds/height/dirt.py",
        "amount[np.uint64(k) * by_amount]", "amount[0]", "tests/kinds/test_point_references.py", fast=False,
    ),
    Mutant(
        "a layer ignores its mask", "kinds/combine/layers.py",
        "share = None if self.mask is None else", "share = None if True else",
        "tests/kinds/test_composing.py::test_a_layer_shows_through_its_mask_at_its_place_and_level",
        fast=False,
    ),
    Mutant(
        "a chance of another number is the same", "kinds/pattern/element_chances.py",
        "stream = STREAM + first + n", "stream = STREAM + n",
        "tests/kinds/test_composing.py::test_chances_are_independent_even_and_stay_with_their_element",
        fast=False,
    ),
    Mutant(
        "a large picture's seam is looked for in all its samples", "kinds/filter/close_seams.py",
        "while min(first.shape[:2]) >= 2 * ENOUGH:", "while False:",
        "tests/kinds/test_ground.py::test_a_large_picture_closes_along_the_lines_of_a_smaller_one",
    ),
    Mutant(
        "a seam's line does not ask for joints", "kinds/filter/close_seams.py",
        "1.5 * joints]", "0.0]",
        "tests/kinds/test_ground.py::test_a_seam_runs_in_the_joints_between_stones", fast=False,
    ),
    Mutant(
        "stops are not those that close", "kinds/place/transform_place.py",
        "is_whole(z.imag * aspect) and is_whole(z.imag / aspect)", "True",
        "tests/kinds/test_handles.py", fast=False,
    ),
    Mutant(
        "a joint that strays to the left is not seen", "kinds/pattern/courses.py",
        "            column += 1\n", "            column += 0\n",
        f"{PATTERNS}::test_blocks_lie_between_joints_that_stray", fast=False,
    ),
    Mutant(
        "an upper fan lies over a lower one", "kinds/pattern/fan_cobbles.py",
        "if length < radius and down >= 0.0:", "if length < radius and down >= 0.0 and far < 0.0:",
        f"{PATTERNS}::test_stones_lie_in_the_lowest_fan_that_reaches_a_place", fast=False,
    ),
    Mutant(
        "each output reads its picture", "kinds/value/picture.py",
        "    at_once=True,\n", "",
        f"{FILES}::test_all_outputs_of_a_picture_are_made_of_one_reading", fast=False,
    ),
    Mutant(
        "a sample reads one place of what it covers", "kinds/place/sample.py",
        "return read_covered(context.bands, map, place, reading)",
        "return read_at(context.bands, map, place, reading)",
        "tests/kinds/test_reading.py::test_a_sample_averages_what_it_covers", fast=False,
    ),
    Mutant(
        "a picture is shrunk before it is placed", "kinds/value/picture.py",
        "    laid = lay(context, place, values)\n",
        "    laid = lay(context, place, values)\n"
        "    colour = resize_map(colour, context.width, context.height, 1, 1, context.stop.check)\n",
        "tests/kinds/test_reading.py::test_a_part_of_a_scan_is_as_sharp_as_the_scan", fast=False,
    ),
    Mutant(
        "rows that do not fit their shift stay", "kinds/rows.py",
        "    fit = every * max(1, (2 * count + every) // (2 * every))\n", "    fit = count\n",
        "tests/kinds/test_ground.py::test_no_joint_runs_straight_on_at_the_seam", fast=False,
    ),
    Mutant(
        "thin forms are looked at once in a sample", "kinds/shape/shape_parts.py",
        "        if which == NEAR:\n", "        if which:\n",
        f"{LAWS}::test_every_kind_keeps[plot-keeps_the_weight_of_thin_forms]", fast=False,
    ),
    Mutant(
        "the longest vectors are measured by their squares", "kinds/vector/vector_parts.py",
        "np.abs(numbers_of(context.in_widths(vectors)))",
        "np.sqrt(np.square(context.in_widths(vectors)).sum(axis=-1))",
        "tests/kinds/test_vectors.py::"
        "test_the_longest_vectors_are_measured_though_their_squares_run_over",
    ),
    Mutant(
        "lengths between are not bent", "kinds/vector/vector_lengths.py",
        "if middle != 1:", "if middle > 4:",
        "tests/kinds/test_vectors.py::test_middles_between_bend_lengths",
    ),
    Mutant(
        "vectors are turned in shares of the tile", "kinds/vector/vector_parts.py",
        "numbers_of(context.in_widths(vectors)) * turn", "numbers_of(vectors) * turn",
        "tests/kinds/test_vectors.py",
    ),
    Mutant(
        "joined points share their chances", "kinds/points/join_points.py",
        '            moved["id"] += APART\n', "            break\n",
        "tests/kinds/test_vectors.py",
    ),
    Mutant(
        "what is lost in folded octaves is forgotten", "kinds/noise/fractal_noise.py",
        " if sum in FOLDED else None", " if sum not in FOLDED else None",
        f"{NOISE}::test_folded_octaves_finer_than_a_sample_keep_their_mean", fast=False,
    ),
    Mutant(
        "bridges do not go around the tile", "kinds/path/between_paths.py",
        "((b - a) - np.round(b - a) for a, b in", "((b - a) for a, b in",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "paths are weighed by corner", "kinds/path/weigh_paths.py",
        "    share = shares_of(context, paths, starts_of(paths))\n",
        "    share = np.linspace(0, 1, len(paths))\n",
        "tests/kinds/test_paths.py", fast=False,
    ),
    Mutant(
        "a branch goes by its place among all", "kinds/path/branch_paths.py",
        '(paths["id"][starts[:-1]][parent] + 1) * OFFSPRING + place', "np.arange(len(place))",
        "tests/kinds/test_growing.py", fast=False,
    ),
    Mutant(
        "a surface is not twisted", "kinds/height/curvature.py",
        "np.uint64(1)]) * both", "np.uint64(1)]) * both * np.float32(0)",
        "tests/kinds/test_relief.py::test_mean_curvature_is_that_of_central_differences",
    ),
    Mutant(
        "the last sample of a swirl's block is left out", "kinds/warp/swirl.py",
        "min(ends[row, 1], left + wide)", "min(ends[row, 1], left + wide - 1)",
        "tests/kinds/test_forms.py::"
        "test_a_swirl_turns_about_its_middle_and_leaves_what_lies_beyond_its_radius", fast=False,
    ),
    Mutant(
        "a mix keeps both materials to the end", "kinds/combine/mix_materials.py",
        "        below.let_go(name)\n        above.let_go(name)\n", "",
        "tests/loom/test_evaluation.py::"
        "test_a_mix_lets_go_of_channels_as_it_goes_where_nobody_else_needs_them",
    ),
    Mutant(
        "radii that samples have are left out of a driven blur", "kinds/filter/blur.py",
        "SURELY = 1 - 1e-5", "SURELY = 1 + 1e-5",
        f"{STRENGTHS}::test_a_driven_blur_is_between_those_of_the_radii_around_its_own",
    ),
    Mutant(
        "what drives a colour drives its first channel alone", "kinds/filter/filter_parts.py",
        "found[..., channel] = amount", "found[..., channel] = amount if channel == 0 else 1",
        f"{STRENGTHS}::test_what_drives_a_colour_drives_each_of_its_channels",
    ),
    Mutant(
        "ways are turned against the clock", "kit/ways.py",
        "np.multiply(length, np.sin(angle), out", "np.multiply(length, -np.sin(angle), out",
        "tests/kinds/test_ways.py",
    ),
)  # fmt: skip
