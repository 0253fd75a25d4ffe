"""Documents that nobody made: each opens, or is refused in a sentence; what opens can be saved."""

from __future__ import annotations

import json
import random
from typing import Any

from hostile import FaultError, in_a_sentence, mutated_bytes, unfolded, value

import reedloom as rl
from reedloom.data import shipped_weave
from reedloom.loom.cache import Cache
from reedloom.loom.run import evaluate_ends
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.resolve import resolve
from reedloom.weave.session import Session
from reedloom.weave.weave import Weave

SOURCES = ("lakebed-clay", "beaten-bronze", "rush-mat")
COMPUTED = 0.05
"""The share of documents that open which are computed too."""


def _places(node: Any) -> list[tuple[Any, Any]]:
    """Every place in a piece of JSON, as what holds it and its key."""
    found: list[tuple[Any, Any]] = []
    waiting = [node]
    while waiting:
        holder = waiting.pop()
        for key in holder if isinstance(holder, dict) else range(len(holder)):
            found.append((holder, key))
            if isinstance(holder[key], (dict, list)):
                waiting.append(holder[key])
    return found


def mutated(text: bytes, chance: random.Random) -> bytes:
    """A document's bytes with a few things in it changed."""
    if chance.random() < 0.25:
        return mutated_bytes(text, chance)
    plain = json.loads(text)
    for _ in range(chance.choice((1, 1, 1, 2, 5))):
        holder, key = chance.choice(_places(plain))
        roll = chance.random()
        if roll < 0.6:
            holder[key] = value(chance)
        elif roll < 0.7:
            del holder[key]
        elif isinstance(holder, dict) and roll < 0.85:
            new = value(chance)
            holder[new if isinstance(new, str) else chance.choice(("id", "kind", "box", "at"))] = holder[key]
        elif roll < 0.95:
            other, name = chance.choice(_places(plain))
            holder[key] = json.loads(json.dumps(other[name]))
        else:
            holder[key] = [holder[key]] * chance.choice((0, 2, 70))
    out = unfolded(json.dumps(plain))
    if chance.random() < 0.1:
        endless = chance.choice(("1e999", "NaN", "-Infinity"))
        out = out.replace(chance.choice(("0.5", "1.0", "0.0", "1")), endless)
    if chance.random() < 0.05:
        out = out.replace('"version"', '"format"', 1)
    return out.encode("utf-8", "surrogatepass")


def packed() -> bytes:
    """The clay with motifs in motifs, one of them used twice."""
    weave = Weave(decode_document(shipped_weave("lakebed-clay").read_bytes()))
    inner = weave.pack(["gradient_noise_1", "gradient_noise_2", "bend_place_1", "bend_place_2"], "Broad bend")
    weave.pack([inner, "gradient_noise_3", "bend_place_3", "cellular_noise_1"], "Bent plates")
    weave.use("Bent plates", plates=4)
    weave.pack(["levels_1", "curve_1"], "Curled rim")
    return encode_document(weave.document)


def run(count: int, seed: int) -> int:
    """Try so many documents; returns how many opened. A fault is raised with its number."""
    texts = [*(shipped_weave(name).read_bytes() for name in SOURCES), packed()]
    opened = 0
    for number in range(seed, seed + count):
        chance = random.Random(number)
        data = mutated(chance.choice(texts), chance)
        try:
            document = decode_document(data)
        except Exception as error:
            in_a_sentence(error, f"opening document {number}")
            continue
        opened += 1
        try:
            again = decode_document(encode_document(document))
            Session(document)
        except Exception as error:
            raise FaultError(f"document {number} opens and cannot be saved: {error}") from error
        if encode_document(again) != encode_document(document):
            raise FaultError(f"document {number} is another one when it is saved and opened")
        if chance.random() < COMPUTED:
            compute(document, number)
    return opened


def compute(document: Any, number: int) -> None:
    """Compute what is tied in a document at a size of a few samples."""
    from reedloom.kinds.catalogue import all_kinds
    from reedloom.weave.graph import with_stand_ins

    kinds = with_stand_ins(all_kinds(), [document.graph])
    try:
        flat = resolve(document, kinds)
        outcome = evaluate_ends(flat, flat.ends.values(), 12, cache=Cache(0))
    except rl.ReedError as error:
        in_a_sentence(error, f"computing document {number}")
        return
    for reason in outcome.failures.values():
        in_a_sentence(rl.ReedError(reason if len(reason) > 10 else reason + " " * 10), f"document {number}")
