"""What the Help menu does: finding commands, their keys, a report, what this is."""

from __future__ import annotations

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QApplication

from reedloom import __version__
from reedloom.desk.look.words import tell
from reedloom.logs import report

if TYPE_CHECKING:
    from reedloom.desk.frame.command_finder import CommandFinder
    from reedloom.desk.frame.window import Window


class HelpCommands:
    """The commands, for one window."""

    def __init__(self, window: Window) -> None:
        self._window = window

    @cached_property
    def finder(self) -> CommandFinder:
        """The search over commands, made when it is first wanted."""
        from reedloom.desk.frame.command_finder import CommandFinder

        return CommandFinder(self._window, self._window.actions_, self._window.own_keys)

    def find_command(self) -> None:
        """Find a command by its name, to do it or to give it other keys."""
        self.finder.find_command()

    def show_keys(self) -> None:
        """Show every command with its keys."""
        from reedloom.desk.frame.keys_dialog import KeysDialog

        KeysDialog(self._window).exec()

    def copy_report(self) -> None:
        """Put versions, failing nodes and the end of the log on the clipboard, without anybody's paths."""
        w = self._window.workplace
        failing = [(w.flat.nodes[n].kind.id, reason) for n, reason in w.failures.items() if n in w.flat.nodes]
        QApplication.clipboard().setText(report(failing))
        w.message.emit("The report is on the clipboard: versions, failing nodes, the end of the log.", False)

    def show_about(self) -> None:
        """Say what this is."""
        tell(
            self._window,
            "About Reed Loom",
            f"Reed Loom {__version__}\n\nProcedural texture graphs that end in tileable map sets.\n\n"
            "Fonts: IBM Plex Sans, under the SIL Open Font License 1.1.",
            warning=False,
        )
