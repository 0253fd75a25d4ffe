"""Seeded fuzzers: `python tools/fuzz/run.py [documents 20000] [--seed 1]`; all of them briefly without names.

Each case has a number, from which it can be made again: `documents 1 --seed 4711`. The first fault ends a
fuzzer; the exit status is 1 if there was any.
"""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parent))
os.environ.setdefault("REEDLOOM_STATE", tempfile.mkdtemp(prefix="reedloom-fuzz-"))

import documents
import formulas
import kills
import names
import pictures
from hostile import FaultError

FUZZERS = {
    "documents": (documents.run, 400, "opened"),
    "pictures": (pictures.run, 400, "read"),
    "formulas": (formulas.run, 4000, "had a value"),
    "names": (names.run, 40, "files written"),
    "saving": (kills.saving, 20, "kills"),
    "delivering": (kills.delivering, 20, "kills"),
}
"""For each name what runs it, how many cases a short run has, and what its count is of."""


def main() -> None:
    """Run what is named, or all."""
    parser = argparse.ArgumentParser(description=(__doc__ or "").splitlines()[0])
    parser.add_argument("which", nargs="*", help="fuzzers, each with a number of cases if not few")
    parser.add_argument("--seed", type=int, default=1)
    asked = parser.parse_args()
    wanted: dict[str, int] = {}
    for word in asked.which:
        if word.isdecimal() and wanted:
            wanted[next(reversed(wanted))] = int(word)
        elif word in FUZZERS:
            wanted[word] = FUZZERS[word][1]
        else:
            parser.error(f"there is no fuzzer '{word}'; there are {', '.join(FUZZERS)}")
    failed = False
    for name, count in (wanted or {name: held[1] for name, held in FUZZERS.items()}).items():
        run, _, what = FUZZERS[name]
        start = time.perf_counter()
        try:
            print(f"{name}: {count} cases, {run(count, asked.seed)} {what}", end="", flush=True)
        except FaultError as fault:
            failed = True
            print(f"{name}: FOUND {fault}", end="")
        print(f", {time.perf_counter() - start:.0f} s", flush=True)
    sys.exit(failed)


if __name__ == "__main__":
    main()
