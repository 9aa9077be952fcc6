"""Doing what was chosen on a card."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.keys.keymap import key_of

if TYPE_CHECKING:
    from yardcut.tui.desk.offering.deeds import Deed
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class Doing:
    """Puts a line on the list, begins to write one, or does something of its own, by the name it has there."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting
        self.own: dict[str, Callable[[], object]] = {}

    def done(self, deed: Deed | None) -> None:
        """Do it; nothing for a card that was put away."""
        if deed is None:
            return
        if deed.own:
            self.own[deed.own]()
        elif deed.begins:
            self._prompting.write(deed.line, editing=deed.instead_of)
        else:
            self.put(deed.line, deed.instead_of)

    def put(self, line: str, instead_of: int | None = None, *, instead_of_looks: str = "") -> None:
        """Put a line behind the selected one (look lines of a verb may go with it), or in place of another."""
        stage = self._stage
        assert stage.desk is not None
        try:
            if instead_of is None:
                index = stage.desk.edits.enter(line, stage.desk.now.selected, instead_of_looks=instead_of_looks)
            else:
                index = instead_of
                stage.desk.edits.rewrite(index, line)
        except ListError as error:
            stage.say_error(error)
            return
        stage.say(f"{line}   (line {index + 1}; {key_of('undo')} takes it back)")
