"""Sets of kinds as values: the built-in ones, found by a scan, and those of a user's own folder."""

from __future__ import annotations

import importlib
import importlib.util
import os
import pkgutil
import re
import sys
from collections.abc import Iterable, Iterator, Mapping
from functools import cache, cached_property
from pathlib import Path
from types import ModuleType
from typing import Any, Protocol

from msgspec import Struct, field
from msgspec.structs import replace

from reedloom.errors import ReedError, unknown
from reedloom.kit.families import FAMILIES
from reedloom.kit.kind import Kind

OWN_ID = re.compile(r"[a-z][a-z0-9_]*\.[a-z][a-z0-9_]*")
"""The ids of a user's own kinds: an author's name, a full stop, a name."""


class NodeLike(Protocol):
    """What is asked about a node: its kind, and what is set on it."""

    @property
    def kind(self) -> str: ...
    @property
    def version(self) -> int: ...
    @property
    def parameters(self) -> Mapping[str, Any]: ...
    @property
    def name(self) -> str: ...


class Unreadable(Struct, frozen=True):
    """A module that gave no kinds, and why, in one sentence."""

    file: Path
    reason: str


class Kinds(Struct, frozen=True, eq=False):
    """A set of kinds; iterating gives them in the order of the creel.

    Attributes
    ----------
    known : mapping of id to Kind
    unreadable : tuple of Unreadable
        Modules of a user's folder that cost only themselves.
    stand_ins : mapping of (id, version) to Kind
        What keeps the place of kinds, or versions of kinds, that are not here.
    """

    known: Mapping[str, Kind]
    unreadable: tuple[Unreadable, ...] = ()
    stand_ins: Mapping[tuple[str, int], Kind] = field(default_factory=dict)
    _found: dict[tuple[str, int], Kind] = field(default_factory=dict)
    """What was asked before; the kinds behind it never change."""

    def __iter__(self) -> Iterator[Kind]:
        return iter(self.known.values())

    def __len__(self) -> int:
        return len(self.known)

    def __contains__(self, kind_id: object) -> bool:
        return kind_id in self.known

    def get(self, kind_id: str) -> Kind:
        """The kind of that id, in its newest version.

        Raises
        ------
        UnknownNameError
            If there is none; the text suggests the nearest ids.
        """
        try:
            return self.known[kind_id]
        except KeyError:
            words = {kind.id: (kind.label, *kind.synonyms) for kind in self}
            raise unknown("node kind", kind_id, self.known, known_as=words) from None

    def exact(self, kind_id: str, version: int) -> Kind | None:
        """The kind in just that version, if it is here."""
        known = self.known.get(kind_id)
        versions = () if known is None else (known, *known.earlier)
        return next((kind for kind in versions if kind.version == version), None)

    def of(self, node: NodeLike) -> Kind:
        """A node's kind in the node's version, or what stands in for it."""
        key = (node.kind, node.version)
        found = self._found.get(key)
        if found is None:
            found = self.exact(*key) or self.stand_ins.get(key) or self.missing(*key)
            self._found[key] = found
        return found

    def missing(self, kind_id: str, version: int) -> Kind:
        """A stand-in without ports for a kind that is not here; it says what is missing."""
        known = self.known.get(kind_id)
        if known is None:
            label = kind_id.rpartition(".")[2].replace("_", " ").capitalize()
            reason = (
                f"the kind '{kind_id}' is not here; add the module that declares it to your kinds folder."
            )
        else:
            label = known.label
            reason = (
                f"the kind '{kind_id}' is of version {version} here, but this Reed Loom has version "
                f"{known.version}; please update."
            )
        return Kind(
            id=kind_id,
            label=label,
            family=known.family if known else "value",
            version=version,
            purpose="Its kind is missing; all that is set on it is kept.",
            inputs=(),
            outputs=(),
            parameters=(),
            compute=_refuse,
            missing=reason,
        )

    def title(self, node: NodeLike) -> str:
        """The name given to a node, or its kind's label."""
        return node.name or self.of(node).label

    def value(self, node: NodeLike, name: str) -> Any:
        """A parameter's value."""
        if name in node.parameters:
            return node.parameters[name]
        parameter = self.of(node).parameter(name)
        return node.parameters.get(parameter.name, parameter.default)

    def values(self, node: NodeLike) -> dict[str, Any]:
        """Every parameter's value by name."""
        return self.of(node).defaults() | dict(node.parameters)

    def having(self, more: Iterable[Kind], unreadable: Iterable[Unreadable] = ()) -> Kinds:
        """This set with other kinds besides; those of the same id go before."""
        return replace(
            self,
            known=_ranked({**self.known, **{k.id: k for k in more}}),
            unreadable=(*self.unreadable, *unreadable),
            _found={},
        )

    def standing_in(self, stand_ins: Mapping[tuple[str, int], Kind]) -> Kinds:
        """This set with other stand-ins for what is missing."""
        return replace(self, stand_ins=stand_ins, _found={})


def _refuse(context: Any, **values: Any) -> Any:
    raise ReedError("its kind is missing.")


def _ranked(found: Mapping[str, Kind]) -> dict[str, Kind]:
    order = list(FAMILIES)
    return {k.id: k for k in sorted(found.values(), key=lambda k: (order.index(k.family), k.label))}


class _BuiltIn(Mapping[str, Kind]):
    """The kinds of this program, by a scan of the family folders; there is no second list to keep.

    Their modules are read when one is first asked for: a window that opens empty is on screen before.
    """

    @cached_property
    def _kinds(self) -> dict[str, Kind]:
        found: dict[str, Kind] = {}
        for module in pkgutil.walk_packages([str(Path(__file__).parent)], __package__ + "."):
            if module.ispkg or module.name.count(".") < 3:
                continue
            for declared in _declared_in(importlib.import_module(module.name)):
                if found.setdefault(declared.id, declared) is not declared:
                    raise ReedError(f"Two kinds have the id '{declared.id}'; the second is in {module.name}.")
        return _ranked(found)

    def __getitem__(self, kind_id: str) -> Kind:
        return self._kinds[kind_id]

    def __iter__(self) -> Iterator[str]:
        return iter(self._kinds)

    def __len__(self) -> int:
        return len(self._kinds)


@cache
def built_in_kinds() -> Kinds:
    """The kinds of this program."""
    return Kinds(_BuiltIn())


def _declared_in(module: ModuleType) -> list[Kind]:
    return [value for value in vars(module).values() if isinstance(value, Kind)]


def read_folder(folder: Path, kinds: Kinds) -> Kinds:
    """A set of kinds with those that the modules of a folder declare.

    A module that cannot be imported, or whose kinds have no proper ids, is listed in `unreadable` and
    costs only itself.
    """
    found: dict[str, Kind] = {}
    unreadable = []
    for file in sorted(folder.glob("*.py")):
        try:
            for declared in _read_module(file):
                if not OWN_ID.fullmatch(declared.id):
                    raise ReedError(
                        f"the id '{declared.id}' has no name space; call it 'author.{declared.id}', small "
                        "letters, digits and underscores only."
                    )
                if declared.id in found:
                    raise ReedError(f"the id '{declared.id}' is there twice; give it another one.")
                found[declared.id] = declared
        except (Exception, SystemExit) as error:  # whatever a user's module does costs only that module
            reason = str(error) if isinstance(error, ReedError) else f"{type(error).__name__}: {error}"
            unreadable.append(Unreadable(file, f"'{file.name}' cannot be used: {reason}"))
    return kinds.having(found.values(), unreadable)


def _read_module(file: Path) -> list[Kind]:
    name = f"reedloom_own.{file.stem}"
    spec = importlib.util.spec_from_file_location(name, file)
    if spec is None or spec.loader is None:
        raise ReedError("it is no Python module.")
    module = importlib.util.module_from_spec(spec)
    sys.modules[name] = module
    try:
        spec.loader.exec_module(module)
    except BaseException:
        del sys.modules[name]
        raise
    # Imported kinds, such as those a module builds on, are not its own.
    return [kind for kind in _declared_in(module) if kind.compute.__module__ == name]


def own_folder() -> Path:
    """Where a user's own kinds lie: the environment's REEDLOOM_KINDS, or a folder of the user's data."""
    given = os.environ.get("REEDLOOM_KINDS")
    if given:
        return Path(given)
    import platformdirs

    return Path(platformdirs.user_data_dir("reedloom")) / "kinds"


@cache
def all_kinds() -> Kinds:
    """The built-in kinds and those of the user's own folder, as they were when this was first asked."""
    folder = own_folder()
    return read_folder(folder, built_in_kinds()) if folder.is_dir() else built_in_kinds()
