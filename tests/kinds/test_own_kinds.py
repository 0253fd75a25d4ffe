"""Kinds of a user's own folder: read, named, examined, and missed without harm."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest
from click.testing import CliRunner
from msgspec.structs import replace

import reedloom as rl
from reedloom.cli import main
from reedloom.kinds.catalogue import Kinds, built_in_kinds, read_folder
from reedloom.kit import GREY, Change, Context, Float, Port, kind
from reedloom.kit.kind import Kind
from reedloom.loom.run import evaluate_ends
from reedloom.weave.document import Document, Node
from reedloom.weave.fileformat import decode_document, encode_document
from reedloom.weave.resolve import resolve

SOAK = """
from reedloom.kit import GREY, Context, Float, Port, kind

@kind(
    id="ada.soak", label="Soak", family="tone", version=1, purpose="Darkens what is low.",
    inputs=(Port("map", GREY),), outputs=(Port("map", GREY),),
    parameters=(Float("amount", 0.5, (0, 1), (0, 1), help="How much.", neutral=0.0),),
)
def soak(context: Context, map, *, amount):
    return context.map_bands(lambda rows: rows * (1 - amount * (1 - rows)), map)
"""
BROKEN = {
    "plain.py": (SOAK.replace("ada.soak", "soak"), "has no name space; call it 'author.soak'"),
    "wrong.py": ("import nowhere_at_all", "No module named 'nowhere_at_all'"),
    "ends.py": ("raise SystemExit", "SystemExit"),
    "half.py": (SOAK.replace("*, amount", "*, amunt"), "and its function differ"),
}


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    """A folder of one good module and some that cannot be used."""
    (tmp_path / "soak.py").write_text(SOAK)
    for name, (text, _) in BROKEN.items():
        (tmp_path / name).write_text(text)
    return tmp_path


def test_a_module_that_cannot_be_used_costs_only_itself(folder: Path) -> None:
    kinds = read_folder(folder, built_in_kinds())
    assert "ada.soak" in kinds and len(kinds) == len(built_in_kinds()) + 1
    told = {u.file.name: u.reason for u in kinds.unreadable}
    assert told.keys() == BROKEN.keys()
    for name, (_, reason) in BROKEN.items():
        assert reason in told[name] and told[name].startswith(f"'{name}' cannot be used")


def test_an_own_kind_is_used_saved_and_opened_like_any_other(folder: Path, tmp_path: Path) -> None:
    kinds = read_folder(folder, built_in_kinds())
    weave = rl.Weave(kinds=kinds)
    noise, soak = weave.add("gradient_noise"), weave.add("ada.soak", amount=1.0)
    assert soak == "soak_1"
    weave.connect(noise, soak)
    weave.tie(soak, "height")
    wet, dry = rl.evaluate(weave, soak, 32), rl.evaluate(weave, noise, 32)
    assert np.allclose(wet, dry * dry)
    rl.save_weave(weave, tmp_path / "wet.reed")
    again = rl.open_weave(tmp_path / "wet.reed", kinds)
    assert np.array_equal(rl.evaluate(again, soak, 32), wet)


def missing_its_kind(folder: Path) -> tuple[bytes, Kinds]:
    """The file of a weave whose kind is not among the built-in ones."""
    kinds = read_folder(folder, built_in_kinds())
    weave = rl.Weave(kinds=kinds)
    noise, soak, after = weave.add("gradient_noise"), weave.add("ada.soak", amount=0.75), weave.add("levels")
    weave.connect(noise, soak)
    weave.connect(soak, after)
    weave.tie(after, "height")
    weave.tie(noise, "roughness")
    return encode_document(weave.document, kinds), kinds


def test_a_weave_with_an_unknown_kind_opens_and_is_saved_unchanged(folder: Path) -> None:
    data, kinds = missing_its_kind(folder)
    weave = rl.Weave(decode_document(data, built_in_kinds()), built_in_kinds())
    assert encode_document(weave.document, built_in_kinds()) == data
    node = weave.document.graph.nodes["soak_1"]
    stand_in = weave.kinds.of(node)
    assert node.parameters == {"amount": 0.75} and "'ada.soak' is not here" in stand_in.missing
    assert [p.name for p in stand_in.inputs] == [p.name for p in stand_in.outputs] == ["map"]
    with pytest.raises(rl.EvaluationError, match=r"The kind 'ada\.soak' is not here; add the module"):
        rl.evaluate_maps(weave, 16)
    outcome = evaluate_ends(resolve(weave.document, weave.kinds), [weave.end("levels_1")], 16)
    assert outcome.failures["levels_1"] == "It waits for 'Soak'."
    assert rl.evaluate(weave, "gradient_noise_1", 16).shape == (16, 16)
    # The rest can be worked on, and the stand-in keeps its notches when they are untied.
    weave.set("levels_1", gamma=2.0)
    weave.disconnect("levels_1")
    weave.connect("soak_1", "levels_1")
    assert rl.Weave(weave.document, kinds).kinds.of(node).missing == ""
    assert np.isfinite(rl.evaluate(rl.Weave(weave.document, kinds), "levels_1", 16)).all()


def test_a_newer_version_is_kept_as_it_is(folder: Path) -> None:
    data, kinds = missing_its_kind(folder)
    raw = json.loads(data)
    raw["nodes"]["levels_1"] |= {"version": 7, "parameters": {"from_low": [1, 2], "sheen": "much"}}
    newer = json.dumps(raw).encode()
    weave = rl.Weave(decode_document(newer, kinds), kinds)
    kept = json.loads(encode_document(weave.document, kinds))
    assert kept["nodes"]["levels_1"] == raw["nodes"]["levels_1"]
    with pytest.raises(rl.EvaluationError, match=r"of version 7 here, but this Reed Loom has version 1"):
        rl.evaluate(weave, "levels_1", 8)


def fade(version: int, **more: object) -> Kind:
    """A kind whose picture changed with each version: it divides by its version."""

    @kind(
        id="ada.fade", label="Fade", family="tone", version=version, purpose="Fades.",
        inputs=(Port("map", GREY),), outputs=(Port("map", GREY),),
        parameters=(Float("share" if version > 1 else "amount", 1.0, (0, 1), help="How much."),),
        **more,  # type: ignore[arg-type]
    )  # fmt: skip
    def made(context: Context, map: np.ndarray, **values: float) -> np.ndarray:
        (amount,) = values.values()
        return map * np.float32(amount / version)

    return made  # type: ignore[return-value]


CARRIED = Change("Fades by halves.", lambda values: {"share": values.get("amount", 1.0)})


def test_an_older_version_keeps_its_picture_where_it_can_still_be_made() -> None:
    """And is migrated, with a note, where it cannot."""
    first = fade(1)
    keeps = built_in_kinds().having([fade(2, earlier=(first,))])
    carries = built_in_kinds().having([fade(2, changes={2: CARRIED})])
    old = rl.Weave(kinds=built_in_kinds().having([first]))
    level, node = old.add("number", value=1.0), old.add("ada.fade", amount=0.5)
    old.connect(level, node)
    data = encode_document(old.document, old.kinds)
    for kinds, version, picture, note in ((keeps, 1, 0.5, "Keeps"), (carries, 2, 0.25, "Fades by halves.")):
        opened = rl.Weave(decode_document(data, kinds), kinds)
        assert opened.document.graph.nodes[node].version == version
        assert rl.evaluate(opened, node, 4)[0, 0] == pytest.approx(picture)
        assert note in opened.document.remarks[node]
        again = decode_document(encode_document(opened.document, kinds), kinds)
        assert again.graph == opened.document.graph
    with pytest.raises(rl.ReedError, match="does not say for every version"):
        fade(3, changes={2: CARRIED})


def test_values_that_no_migration_understands_are_named(folder: Path) -> None:
    bad = Change("x.", lambda values: {"share": values["amount"] + 1})
    kinds = built_in_kinds().having([fade(2, changes={2: bad})])
    node = Node(id="a", kind="ada.fade", version=1, parameters={"amount": "much"})
    graph = replace(Document().graph, nodes={"a": node})
    data = encode_document(Document(graph=graph), built_in_kinds())
    with pytest.raises(rl.ReedError, match="the values of 'a' are none of version 1 of"):
        decode_document(data, kinds)


def test_the_command_line_examines_a_folder(tmp_path: Path) -> None:
    good, bad = tmp_path / "good", tmp_path / "bad"
    for place, text in (
        (good, SOAK),
        (bad, SOAK.replace("return", "map = map[:, ::-1]; return").replace("soak", "turned")),
    ):
        place.mkdir()
        (place / "soak.py").write_text(text)
    done = CliRunner().invoke(main, ["check", str(good)])
    assert done.exit_code == 0, done.output
    done = CliRunner().invoke(main, ["check", str(bad)])
    assert (
        done.exit_code == 1
        and "ada.turned: A filter of a shifted map is the shifted filtered map." in done.output
    )


def test_the_kind_in_the_guide_keeps_every_law(tmp_path: Path) -> None:
    guide = Path(__file__).parents[2] / "docs" / "adding-a-node.md"
    code = guide.read_text().split("```python\n")[1].split("```")[0]
    (tmp_path / "posterise.py").write_text(code.replace('id="posterise"', 'id="ada.posterise"'))
    done = CliRunner().invoke(main, ["check", str(tmp_path)])
    assert done.exit_code == 0, done.output
    assert "1 kinds examined, 0 findings." in done.output
