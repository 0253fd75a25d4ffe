"""What a row of the settings offers for reuse: copy and paste, make a dial, follow one, a formula, let go."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu, QWidget

from reedloom.desk.look.words import action_text
from reedloom.desk.screen.scopes import present_owner, present_scope, present_values, value_edit
from reedloom.desk.screen.workplace import Workplace
from reedloom.errors import ReedError
from reedloom.kit.parameters import Number, Parameter
from reedloom.weave.dials import TYPES, dial_for, drive, free_dial_id
from reedloom.weave.edits import PutDial, SetFormula


class ReuseMenu:
    """The edits by which a parameter of a node on the board follows dials."""

    def __init__(self, workplace: Workplace, write: Callable[[str], None]) -> None:
        self.workplace, self._write = workplace, write

    def can_follow(self, parameter: Parameter) -> bool:
        """Whether there is any sense in a dial for it."""
        return parameter.word in TYPES

    def fill(self, menu: QMenu, node: str, parameter: Parameter, parent: QWidget) -> None:
        """Offer what can be done with a parameter of a node."""
        w = self.workplace
        formulas = w.graph.nodes[node].formulas
        menu.addAction("Copy the value", lambda: self.copy(node, parameter))
        menu.addAction("Paste the value", lambda: self.paste(node, parameter))
        menu.addSeparator()
        make = menu.addAction("Make a dial", lambda: self.make_dial(node, parameter))
        make.setEnabled(self.can_follow(parameter) and parameter.name not in formulas)
        following = menu.addMenu("Follow a dial")
        owner, scope = present_owner(w), present_scope(w)
        for key, dial in owner.dials.items():
            try:
                drive(parameter, key, scope)
            except ReedError:
                continue  # of another type
            action = following.addAction(action_text(dial.label or key))
            action.triggered.connect(lambda _=False, k=key: self.follow(node, parameter.name, k))
        following.setEnabled(not following.isEmpty())
        write = menu.addAction("Write a formula", lambda: self._write(parameter.name))
        write.setEnabled(isinstance(parameter, Number) or parameter.name in formulas)
        menu.addSeparator()
        free = menu.addAction("Let go", lambda: self.follow(node, parameter.name, None))
        free.setEnabled(parameter.name in formulas)

    def copy(self, node: str, parameter: Parameter) -> None:
        """Put a value on the clipboard as JSON, for any program: a number, a word, or a list."""
        value = present_values(self.workplace, node)[parameter.name]
        QGuiApplication.clipboard().setText(msgspec.json.encode(value).decode())
        self.workplace.message.emit(f"Copied: {parameter.title.lower()}.", False)

    def paste(self, node: str, parameter: Parameter) -> None:
        """Give a parameter the value on the clipboard, if it can have it."""
        w, text = self.workplace, QGuiApplication.clipboard().text()
        try:
            w.submit(value_edit(w, node, {parameter.name: _read(text)}))
        except ReedError as error:
            w.message.emit(str(error), True)

    def make_dial(self, node: str, parameter: Parameter) -> None:
        """Offer a parameter as a dial of the weave, or of the motif one is in."""
        w = self.workplace
        value: Any = w.kinds.value(w.graph.nodes[node], parameter.name)
        labels = {dial.label for dial in present_owner(w).dials.values()}
        label = parameter.title
        if label in labels:
            label = f"{w.kinds.title(w.graph.nodes[node])}: {parameter.title.lower()}"
        try:
            dial = dial_for(parameter, value, label)
        except ReedError as error:
            w.message.emit(str(error), True)
            return
        key = free_dial_id(label, present_owner(w).dials)
        if w.submit(PutDial(w.session.motif, key, dial, (node, parameter.name))):
            w.message.emit(f"'{label}' is a dial now; name it and set its range under Dials.", False)

    def follow(self, node: str, name: str, formula: str | None) -> None:
        """Let a parameter follow a dial, or go its own way again."""
        self.workplace.submit(SetFormula(self.workplace.session.motif, node, name, formula))


def _read(text: str) -> Any:
    """A value as JSON; what is none is a word."""
    try:
        return msgspec.json.decode(text)
    except (msgspec.DecodeError, RecursionError):
        return text.strip()
