"""Small wrong changes to kernels of noise and of places, each with the tests that must fail for it."""

from __future__ import annotations

from mutant import LANES, MAPS, NOISE, SUMS, Mutant

MUTANTS = (
    Mutant(
        "corners whole tiles apart differ", "kernels/turned.py",
        "j[y, x] = down_to + across * h * b - down", "j[y, x] = down_to - down",
        "tests/kernels/test_turned.py", fast=False,
    ),
    Mutant(
        "one far sample has a whole band read again", "kernels/splitting.py",
        "in_order(codes, CODES)", "in_order(0 * codes + codes.max(), CODES)",
        f"{NOISE}::test_only_samples_for_which_a_noise_is_fine_are_read_several_times", fast=False,
    ),
    Mutant(
        "readings of a sample cover as much as the sample does", "kernels/splitting.py",
        "values[ys[k], xs[k]] * share", "values[ys[k], xs[k]]",
        "tests/kernels/test_splitting.py",
    ),
    Mutant(
        "what is read several times takes the place of what was there", "kernels/splitting.py",
        "out[ys[k], xs[k]] if added else np.float32(0.0)", "np.float32(0.0)",
        "tests/kernels/test_splitting.py",
    ),
    Mutant(
        "few samples that are read once are left out", "kernels/splitting.py",
        "in np.flatnonzero(starts < ends):", "in np.flatnonzero(starts < ends)[1:]:",
        "tests/kernels/test_splitting.py",
    ),
    Mutant(
        "sixteen places are in one cell if the first two are", "kernels/lattice_lanes.py",
        'b.icmp_signed("==", v.told(apart), v.int(0))',
        'b.icmp_signed("==", b.and_(v.told(apart), v.int(3)), v.int(0))',
        f"{LANES}::test_sixteen_places_of_one_cell_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "what follows in a row stays in a cell while it stays in its column", "kernels/lattice_lanes.py",
        "b.bitcast(part, v.ints), one) for part in parts))",
        "b.bitcast(part, v.ints), one) for part in (parts[0], parts[0])))",
        f"{LANES}::test_straight_rows_of_places_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "a cell's last corner is told from the one beside it alone", "kernels/lattice_cells.py",
        "b.fsub(c, b.fadd(*both))", "b.fsub(c, both[0])",
        f"{LANES}::test_sixteen_places_of_one_cell_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "the last of a run of samples is beside what lies behind the run in memory", "kernels/place_lanes.py",
        "b.select(v.before(b.add(at, v.long(1)), end), right, v.splat(last))", "right",
        f"{SUMS}::test_a_sum_finds_what_samples_cover", fast=False,
    ),
    Mutant(
        "a sample is as far from the one before as from the one after", "kernels/place_lanes.py",
        "range(LANES - 1, 2 * LANES - 1)", "range(LANES, 2 * LANES)",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "the most that samples of a row reach is the first ones' alone", "kernels/place_lanes.py",
        'zip(kept[1:], ("<", ">"), strict=True)', 'zip(kept[1:], ("<", "<"), strict=True)',
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "coarse octaves are carried whole", "kernels/lattice_places.py",
        "amount * np.float32(-0.65) * (finest * finest) if", "np.float32(0) if",
        "tests/kernels/test_turning.py::test_each_sample_has_an_evolution_of_its_own", fast=False,
    ),
    Mutant(
        "cells farther apart than a load are taken out of it", "kernels/lattice_lanes.py",
        "v.int(LANES // each - 2)", "v.int(LANES)",
        f"{LANES}::test_straight_rows_of_places_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "cells of three rows are taken out of two", "kernels/lattice_lanes.py",
        'b.or_(beyond, b.fcmp_unordered("!=", b.fmul(row, row), row))', "beyond",
        f"{LANES}::test_straight_rows_of_places_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "samples that carry a part of an octave carry what coarse ones do", "kernels/lattice_places.py",
        "if finest * most <= np.float32(0.5):", "if finest * most <= np.float32(0.6):",
        "tests/kernels/test_turning.py::test_each_sample_has_an_evolution_of_its_own", fast=False,
    ),
    Mutant(
        "the greatest reach of a row is its last sample's", "kernels/reach.py",
        "least, most = min(least, bits[x]), max(most, bits[x])", "least, most = min(least, bits[x]), bits[x]",
        f"{SUMS}::test_a_sum_finds_what_samples_cover", fast=False,
    ),
    Mutant(
        "places beside others lie on one of the ways only", "kernels/place_lanes.py",
        "zip(ways, pairs, strict=True)", "zip(ways[:1] * 2, pairs, strict=True)",
        f"{SUMS}::test_places_beside_others_are_a_share_of_what_is_covered_away", fast=False,
    ),
    Mutant(
        "readings of fine samples beside others lie where those do", "kernels/lattice_reads.py",
        "ways[2 * x + c] += ", "ways[2 * x + c] += np.float32(0) * ",
        f"{SUMS}::test_places_beside_others_are_a_share_of_what_is_covered_away", fast=False,
    ),
    Mutant(
        "the first run of a band has nothing above it", "kernels/reach.py",
        "lay_run(places, up * width + x, width,", "lay_run(places, y * width + x, width,",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "a run's last sample is beside its own first", "kernels/reach.py",
        "row + x + n - 1, row + after, sides[2]", "row + x + n - 1, row + x, sides[2]",
        f"{SUMS}::test_a_sum_finds_what_samples_cover", fast=False,
    ),
    Mutant(
        "places are as far apart down a low tile as across it", "kernels/place_lanes.py",
        "return v.higher(across, v.b.fmul(down, high))", "return v.higher(across, down)",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "what samples cover ends at the seam", "kernels/place_lanes.py",
        "v.lower(step, v.b.fsub(v.constant(1), step)) for", "step for",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "waves are added up to the end of a row, not of their run", "kernels/wave_lanes.py",
        "inside = v.before(x, end)", "inside = v.before(x, width)",
        "tests/kernels/test_gabor.py", fast=False,
    ),
    Mutant(
        "samples carry all of the waves that they are as wide as", "kernels/gabor.py",
        "return total if q < np.float32(1) else np.float32(0)", "return np.float32(1)",
        "tests/kernels/test_gabor.py", fast=False,
    ),
    Mutant(
        "rows before one that needs a table are laid again", "kernels/lattice_reads.py",
        "            start[1] = y\n", "",
        f"{SUMS}::test_tables_are_made_when_a_sample_is_come_to_that_needs_them", fast=False,
    ),
    Mutant(
        "octaves laid apart are added to the one before", "kernels/lattice_reads.py",
        "begin if k == 0 or apart else", "begin if k == 0 else",
        f"{SUMS}::test_octaves_are_laid_apart_summed_or_added", fast=False,
    ),
    Mutant(
        "samples that carry nothing of the first octave do not begin", "kernels/lattice_lanes.py",
        "                if omit is not None:\n                    omit()\n", "                pass\n",
        f"{SUMS}::test_every_sample_begins_with_a_number_whatever_it_carries", fast=False,
    ),
    Mutant(
        "samples read by themselves begin with what is there", "kernels/lattice_places.py",
        "            line[x] = begin\n", "            pass\n",
        f"{SUMS}::test_every_sample_begins_with_a_number_whatever_it_carries", fast=False,
    ),
    Mutant(
        "rows of which no sample carries anything do not begin", "kernels/lattice_reads.py",
        "                        line[i] = start_with\n", "                        pass\n",
        f"{SUMS}::test_every_sample_begins_with_a_number_whatever_it_carries", fast=False,
    ),
    Mutant(
        "sixteen samples begin with what the first of a row begin with", "kernels/lattice_lanes.py",
        "v.long(-1), v.long(0))", "v.long(0), v.long(0))",
        f"{SUMS}::test_every_sample_begins_with_a_number_whatever_it_carries", fast=False,
    ),
    Mutant(
        "the row below is laid across alone", "kernels/place_lanes.py",
        "for place, line in zip(under, _both(v, below, end, at), strict=True):",
        "for place, line in zip(under[:1], _both(v, below, end, at)[:1], strict=True):",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "a run goes on into the next cell", "kernels/runs.py",
        "cell[end] == cell[start]", "cell[end] <= cell[start] + 1",
        f"{NOISE}::test_cells_are_those_of_a_tree_of_wrapped_points", fast=False,
    ),
    Mutant(
        "all values swing up as noise evolves", "kernels/lattice.py",
        "choices = [1.0, 2.0, -1.0, -2.0] if is_value", "choices = [1.0, 2.0, 1.0, 2.0] if is_value",
        f"{NOISE}::test_the_mean_stays_while_noise_evolves", fast=False,
    ),
    Mutant(
        "each reading of a sample counts for several", "kernels/spread_lanes.py",
        "v.constant(samples / LANES)", "v.constant(2 * samples / LANES)",
        f"{LANES}::test_rows_of_fine_samples_are_read_as_each_sample_by_itself", fast=False,
    ),
    Mutant(
        "four samples are read together however often the last one is", "kernels/spread_lanes.py",
        "b.and_(fits, b.and_(alike, is_few))", "b.and_(fits, is_few)",
        f"{LANES}::test_rows_of_fine_samples_are_read_as_each_sample_by_itself", fast=False,
    ),
    Mutant(
        "readings lie twice as far apart across a sample", "kernels/spread_lanes.py",
        "((i + 0.5) / across - 0.5, (j", "((i + 0.5) / across * 2 - 1, (j",
        f"{LANES}::test_rows_of_fine_samples_are_read_as_each_sample_by_itself", fast=False,
    ),
    Mutant(
        "the second cell is looked for among the nearest only", "kernels/cells.py",
        "second if want_second else first", "first", "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "cells of a few samples are looked for among those around alone", "kernels/cells.py",
        "            search_far(spots, values, numbers, x, shape, slack, power)", "            pass",
        "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "cells without a spot have one as large as a sample", "kernels/cell_lanes.py",
        'b.select(is_there, b.fmul(t, tone), zero)', "b.fmul(t, tone)",
        f"{NOISE}::test_spots_are_the_highest_of_those_about_each_place", fast=False,
    ),
    Mutant(
        "noise of which nothing is lost is not folded", "kernels/fractals.py",
        "ridge = offset - abs(noise[k])\n            signal", "ridge = offset - noise[k]\n            signal",
        f"{MAPS}::test_folded_sums_are_the_same_where_nothing_is_lost", fast=False,
    ),
    Mutant(
        "what no sample can carry of noise stays", "kernels/octaves.py",
        "np.float32(2) - np.float32(2) * cells, np.float32(0)", "np.float32(2) - cells, np.float32(0)",
        "tests/kinds/test_ground.py::"
        "test_grain_at_places_fades_to_its_mean_from_half_a_cell_in_a_sample_to_a_whole_one", fast=False,
    ),
    Mutant(
        "a table too large for its room pushes out the others", "kernels/kept.py",
        " and table.nbytes <= self.room // LARGEST:", ":",
        "tests/kernels/test_kept.py",
    ),
    Mutant(
        "what was used last goes as soon as what was not", "kernels/kept.py",
        "                self.tables.move_to_end(key)\n", "                pass\n",
        "tests/kernels/test_kept.py",
    ),
    Mutant(
        "a sample reaches to the farther of its neighbours", "kernels/place_lanes.py",
        "v.higher(v.lower(left, right), v", "v.higher(v.higher(left, right), v",
        f"{MAPS}::test_a_sample_reaches_as_far_as_to_the_nearer_of_its_neighbours_each_way", fast=False,
    ),
    Mutant(
        "a lattice fine one way repeats its corners a cell late", "kernels/lattice.py",
        "(np.arange(count + more) + start) % count % made", "(np.arange(count + more) + start) % made",
        f"{LANES}::test_lattices_fine_one_way_repeat_their_corners_and_close_at_the_seam",
    ),
    Mutant(
        "a sample in a repeated lattice's last cell is left out", "kernels/lattice_reads.py",
        "        if x < n:\n", "        if x < 0:\n",
        f"{LANES}::test_rows_of_fine_samples_are_read_as_each_sample_by_itself", fast=False,
    ),
    Mutant(
        "the last cell of a repeated lattice is not beside its first", "kernels/lattice_lanes.py",
        'v.b.fcmp_ordered(">=", cell, axis.last)', 'v.b.fcmp_ordered(">", cell, axis.last)',
        f"{LANES}::test_sixteen_places_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "a lattice finer than its table is read beyond it", "kernels/lattice_lanes.py",
        "return b.fsub(cell, b.fmul(turns, axis.table))",
        "return v.lower(b.fsub(cell, turns), b.fsub(axis.table, v.constant(1)))",
        f"{LANES}::test_sixteen_places_are_read_as_each_by_itself", fast=False,
    ),
    Mutant(
        "a place's cell is told a column too far", "kernels/place_lanes.py",
        "b.mul(found[1], v.splat(columns)), found[0])", "b.mul(found[1], v.splat(rows)), found[0])",
        f"{MAPS}::test_places_lie_in_their_cells", fast=False,
    ),
    Mutant(
        "ways to the left are told as those to the right", "kernels/quick.py",
        "    turn = np.float32(0.5) - turn if x < 0 else turn\n", "",
        f"{LANES}::test_elementary_functions_are_those_of_the_library",
    ),
    Mutant(
        "a logarithm's series ends early", "kernels/quick.py",
        "np.float32(1 / 7) + z * np.float32(1 / 9)", "np.float32(1 / 9)",
        f"{LANES}::test_elementary_functions_are_those_of_the_library",
    ),
    Mutant(
        "what is lost of an octave is told from its first fall alone", "kernels/fractals.py",
        "line[x] += fall * min(max(", "line[x] = fall * min(max(",
        f"{NOISE}::test_what_samples_lose_of_a_noise_is_told_from_what_they_keep", fast=False,
    ),
    Mutant(
        "Minkowski's metric is the greater of both ways", "kernels/minkowski.py",
        "abs(pv - v[x])) * root", "abs(pv - v[x]))",
        f"{NOISE}", fast=False,
    ),
    Mutant(
        "all points of cells circle one way", "kernels/cell_lanes.py",
        "b.xor(b.bitcast(v, lanes.ints), way)", "b.bitcast(v, lanes.ints)",
        "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "points that circle keep as far from edges as they stood", "kernels/cells.py",
        "most = 0.5 * jitter * (math.sqrt(2) if is_begun else 1.0)", "most = 0.5 * jitter",
        "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "Minkowski's distance is not brought back by its root", "kernels/cell_lanes.py",
        "** (1 / power)", "** power",
        "tests/kernels/test_cells.py", fast=False,
    ),
    Mutant(
        "corners turn a quarter ahead", "kernels/lattice_cells.py",
        "v.b.fsub(turn, v.constant(0.25))", "v.b.fadd(turn, v.constant(0.25))",
        "tests/kernels/test_turning.py", fast=False,
    ),
    Mutant(
        "readings of four samples see the first one's evolution", "kernels/spread_lanes.py",
        "return spread(self.part, b.add(x, self.end), 1, 0)",
        "return v.splat(b.load(b.gep(self.part, [b.add(x, self.end)])))",
        "tests/kernels/test_turning.py", fast=False,
    ),
    Mutant(
        "far peaks that circle are left out as if they stood in the middle", "kernels/grains.py",
        "- strays * np.float32(each)", "",
        "tests/kinds/test_ground.py::test_peaks_that_circle_are_found_wherever_they_come_near", fast=False,
    ),
    Mutant(
        "a tile's border is passed a corner late", "kernels/turned.py",
        "more = (1 if second >= tall else 0)", "more = (1 if second > tall else 0)",
        "tests/kernels/test_turned.py", fast=False,
    ),
)  # fmt: skip
