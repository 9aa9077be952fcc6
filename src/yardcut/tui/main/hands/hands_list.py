"""What the keys do to the list."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.tui.desk.back_and_forth import said_of_step
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.prompting.asking import Meaning, Question
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class ListHands:
    """Selecting and editing lines, undo."""

    def __init__(self, stage: Stage, prompting: Prompting) -> None:
        self._stage = stage
        self._prompting = prompting

    @property
    def calls(self) -> Calls:
        """What carries out the actions on the list."""
        return {
            "write": lambda: self._prompting.write(""),
            "line-up": lambda: self._desk.select(self._desk.now.selected - 1),
            "line-down": lambda: self._desk.select(self._desk.now.selected + 1),
            "line-first": lambda: self._desk.select(-1),
            "line-last": lambda: self._desk.select(len(self._desk.now.lines) - 1),
            "edit": self._edit,
            "off": lambda: self._desk.edits.switch_line(self._desk.now.selected),
            "delete": self._delete,
            "move-up": lambda: self._desk.edits.move_line(self._desk.now.selected, -1),
            "move-down": lambda: self._desk.edits.move_line(self._desk.now.selected, 1),
            "restricting": self._restricting,
            "note": self._note,
            "clear-off": self._clear_off,
            "undo": self._undo,
            "redo": self._redo,
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _edit(self) -> None:
        """Edit the selected line."""
        now = self._desk.now
        if now.selected >= 0:
            self._prompting.write(now.cut.lines[now.selected].text, editing=now.selected)
        else:
            self._prompting.write("")

    def _delete(self) -> None:
        """Take the selected line out."""
        now = self._desk.now
        gone = now.cut.lines[now.selected].text
        self._desk.edits.delete_line(self._desk.now.selected)
        self._stage.say(f"took out: {' '.join(gone.split())}   ({key_of('undo')} puts it back)")

    def _note(self) -> None:
        """Ask for the note on the selected line, or for the question above the cut."""
        from yardcut.core.cutlist.notes import note_of, question_of, with_note, with_question

        now = self._desk.now
        index, cut = now.selected, now.cut
        text = note_of(cut.lines[index]) if index >= 0 else question_of(cut)
        lead = f"note on line {index + 1} ▸" if index >= 0 else "the question ▸"

        def means(text: str) -> Meaning:
            return Meaning("a comment of the list" if text else "without a note", good=True)

        def done(text: str) -> None:
            cut = self._desk.now.cut
            if index >= 0:
                cut = cut.with_line(index, with_note(cut.lines[index], text))
            else:
                cut = with_question(cut, text)
            self._desk.edits.change_cut(cut)

        self._prompting.ask(Question(lead, text, means, done))

    def _clear_off(self) -> None:
        """Take out all lines that are switched off."""
        cut = self._desk.now.cut
        cleared = cut.without_off_lines()
        gone = len(cut.lines) - len(cleared.lines)
        if not gone:
            self._stage.say("no line is switched off")
            return
        self._desk.edits.change_cut(cleared)
        self._stage.say(f"took out {plural(gone, 'line')} that were off   ({key_of('undo')} puts them back)")

    def _restricting(self) -> None:
        """Go to the next line that restricts the column under the table's cursor."""
        now, column = self._desk.now, self._stage.grid.cursor_column
        assert column is not None
        shown = next((each for each in now.scope_at(now.selected).shown if each.number == column.number), None)
        lines = [
            index
            for index, line in enumerate(now.lines)
            if shown is not None and line.bound is not None and shown.value in line.bound.body.restricts()
        ]
        if not lines:
            self._stage.say(f"no keep or drop looks at {column.name}")
            return
        self._desk.select(next((index for index in lines if index > now.selected), lines[0]))
        self._stage.say(
            f"{plural(len(lines), 'line')} look at {column.name}: {key_of('restricting')} goes on to the next"
        )

    def _undo(self) -> None:
        """Take the last edit back."""
        self._stage.say(said_of_step(self._desk, again=False))

    def _redo(self) -> None:
        """Do an edit again."""
        self._stage.say(said_of_step(self._desk, again=True))
