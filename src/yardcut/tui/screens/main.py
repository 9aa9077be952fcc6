"""The main screen: what the keys do."""

from __future__ import annotations

import re
from typing import ClassVar

from textual import on
from textual.binding import BindingType
from textual.widget import Widget

from yardcut.core.errors import ListError
from yardcut.tui.keymap import KEYS, bindings
from yardcut.tui.screens.asking import ConfirmCard, Question
from yardcut.tui.screens.saving import SavingScreen
from yardcut.tui.widgets.footer import Footer

_ACTIONS = {key.action for key in KEYS if key.focus == "anywhere"}


class MainScreen(SavingScreen):
    """Adds the keys to what the panels show."""

    BINDINGS: ClassVar[list[BindingType]] = [*bindings("anywhere")]

    def check_action(self, action: str, parameters: tuple[object, ...]) -> bool | None:
        """While a line is written its keys are letters."""
        return not self.prompt.active or action not in _ACTIONS or action in ("leave", "theme")

    @on(Footer.Pressed)
    async def _pressed(self, event: Footer.Pressed) -> None:
        target: Widget = self
        if event.key.focus == "prompt":
            target = self.prompt
        elif event.key.focus != "anywhere" and self.focused is not None:
            target = self.focused
        await target.run_action(event.key.action)

    def action_help(self) -> None:
        """Show all keys."""
        from yardcut.tui.screens.help import HelpScreen

        self.app.push_screen(HelpScreen())

    def action_switch_panel(self) -> None:
        """Go from the list to the table and back."""
        (
            self.list_panel if self.focused is self.grid and not self.list_panel.has_class("folded") else self.grid
        ).focus()

    def action_write(self) -> None:
        """Write a line."""
        self.write("")

    def action_read_again(self) -> None:
        """Read the source again."""
        if not self._wait_for_bench(self.action_read_again):
            self.read_again()

    def action_source_card(self) -> None:
        """Show what was read and how."""
        if self._wait_for_bench(self.action_source_card) or self.bench is None:
            return
        from yardcut.tui.screens.source_card import SAVE_LEFT_OUT, SourceCard

        def chosen(line: str | None) -> None:
            if line == SAVE_LEFT_OUT:
                self.save_left_out()
            elif line is not None:
                self.write(line)

        self.app.push_screen(SourceCard(self.bench.table, self.bench.session.spec), chosen)

    def action_profile(self) -> None:
        """Show the profile of every column."""
        if self._wait_for_bench(self.action_profile) or self.bench is None:
            return
        from yardcut.tui.screens.profile import ProfileScreen

        def chosen(place: int | None) -> None:
            if place is not None:
                self.grid.go_to(column=place)

        self.app.push_screen(ProfileScreen(self.bench, self.selected), chosen)

    def action_fold(self) -> None:
        """Fold the list away, or back."""
        self.list_panel.toggle_class("folded")
        self.grid.focus()

    def action_theme(self) -> None:
        """Change the theme."""
        self.app.theme = "yard-light" if self.app.theme == "yard-dark" else "yard-dark"

    def action_stop(self) -> None:
        """Go back from an offcut, or stop what is under way."""
        if self.offcut_shown:
            self.action_offcut()
        elif self.bench is None and self.tasks.interrupt("open"):
            self.say("stopped reading: what was read by now is kept, as a part", "$warning")
        elif self.stop_reading_again():
            self.say("stopped: the source is as it was", "$warning")
        elif any([self.tasks.stop("results"), self.tasks.stop("preview"), self.tasks.stop("save")]):
            self.say("stopped", "$warning")

    # the table

    def _line_about_cell(self, verb: str) -> str | None:
        bench, column, cell = self.bench, self.grid.cursor_column, self.grid.cursor_cell()
        if bench is None or column is None or cell is None:
            self.say("there is no cell here")
            return None
        return bench.line_about(verb, column.name, column.kind, cell[0])

    def _enter_about_cell(self, verb: str) -> None:
        if self._wait_for_bench(lambda: self._enter_about_cell(verb)):
            return
        line = None if self.offcut_shown else self._line_about_cell(verb)
        if line is None or self.bench is None:
            return
        try:
            self.selected = self.bench.session.enter(line, self.selected)
        except ListError as error:
            self.say_error(error)
            return
        self.say(f"{line}   (line {self.selected + 1}; u takes it back)")
        self._changed()

    def action_keep_value(self) -> None:
        """Keep only the rows with this cell's value."""
        self._enter_about_cell("keep")

    def action_drop_value(self) -> None:
        """Drop the rows with this cell's value."""
        self._enter_about_cell("drop")

    def action_about_value(self) -> None:
        """Begin a line about this cell."""
        if self._wait_for_bench(self.action_about_value):
            return
        line = self._line_about_cell("keep")
        if line is not None:
            self.write(line)

    def action_row_card(self) -> None:
        """Show the row from top to bottom."""
        from yardcut.tui.screens.row_card import CardRow, RowCard

        source = self.grid.source

        def read(position: int) -> CardRow | None:
            if not 0 <= position < source.row_count:
                return None
            page = source.page(position, position + 1, range(len(source.columns)))
            fields = [
                (column.name, f"{column.kind} {column.number}", cells[0])
                for column, cells in zip(source.columns, page.cells, strict=True)
            ]
            return CardRow(position, page.source_rows[0], fields)

        def closed(position: int | None) -> None:
            if position is not None:
                self.grid.go_to(row_position=position)

        if source.row_count:
            self.app.push_screen(RowCard(self.grid.viewport.row_position, read), closed)

    def action_go(self) -> None:
        """Go to a row by number or a column by part of its name."""
        source = self.grid.source

        def meant(text: str) -> tuple[int | None, int | None]:
            text = text.strip()
            if re.fullmatch(r"[\d,]+", text):
                return int(text.replace(",", "")) - 1, None
            return None, _column_by_part(text, [column.name for column in source.columns])

        def means(text: str) -> tuple[str, bool]:
            row, column = meant(text)
            if row is not None:
                good = 0 <= row < source.row_count
                return (f"row {row + 1:,} of {source.row_count:,}", good) if good else (
                    f"there are {source.row_count:,} rows", False)  # fmt: skip
            if column is not None:
                found = source.columns[column]
                return f"the column {found.name}, {found.kind}, number {found.number}", True
            if not text.strip():
                return "a row by its number, or a column by part of its name", False
            return "no column has that in its name", False

        def go(text: str) -> None:
            self.grid.go_to(*meant(text))

        def options(text: str) -> list[str]:
            return [column.name for column in source.columns if text.casefold() in column.name.casefold()]

        self.ask(Question("go to ▸", "", means, go, options=options))

    def action_offcut(self) -> None:
        """Show the rows the selected line removed, and back."""
        if self.bench is None:
            return
        if not self.offcut_shown:
            if not 0 <= self.selected < len(self._results):
                self.say("select a line on the list first: the source removed nothing")
                return
            if not self._results[self.selected].taken:
                self.say(f"line {self.selected + 1} removed no rows")
                return
        self.offcut_shown = not self.offcut_shown
        self._show_grid()

    # the list

    def action_select_line(self, by: int) -> None:
        """Select the line above or below."""
        self.select(self.selected + by)

    def action_select_edge(self, side: int) -> None:
        """Select the source, or the last line."""
        self.select(-1 if side < 0 else len(self.bench.session.cut.lines) - 1 if self.bench else -1)

    def action_edit(self) -> None:
        """Edit the selected line."""
        if self.bench is not None and self.selected >= 0:
            self.write(self.bench.session.cut.lines[self.selected].text, editing=self.selected)
        else:
            self.write("")

    def _edit_list(self) -> bool:
        if self.bench is None or self.selected < 0:
            self.say("the source is no line of the list: it stays as it is")
            return False
        return True

    def action_switch_off(self) -> None:
        """Switch the selected line off, or on again."""
        if self._edit_list() and self.bench is not None:
            self.bench.session.switch_line(self.selected)
            self._changed()

    def action_delete_line(self) -> None:
        """Take the selected line out."""
        if self._edit_list() and self.bench is not None:
            gone = self.bench.session.cut.lines[self.selected].text
            self.bench.session.delete_line(self.selected)
            self.selected = min(self.selected, len(self.bench.session.cut.lines) - 1)
            self.say(f"took out: {' '.join(gone.split())}   (u puts it back)")
            self._changed()

    def action_move_line(self, by: int) -> None:
        """Move the selected line."""
        if self._edit_list() and self.bench is not None:
            self.selected = self.bench.session.move_line(self.selected, by)
            self._changed()

    def action_undo(self) -> None:
        """Take the last edit back."""
        if self.bench is not None:
            self.say("took the last edit back" if self.bench.session.undo() else "there is nothing to take back")
            self._changed()

    def action_redo(self) -> None:
        """Do an edit again."""
        if self.bench is not None:
            self.say("did it again" if self.bench.session.redo() else "there is nothing to do again")
            self._changed()

    def action_next_cut(self) -> None:
        """Work on the next cut."""
        self._turn_cut(1)

    def action_previous_cut(self) -> None:
        """Work on the previous cut."""
        self._turn_cut(-1)

    def _turn_cut(self, by: int) -> None:
        bench = self.bench
        if bench is None:
            return
        if len(bench.session.cut_list.cuts) == 1:
            self.say("the list has one cut")
            return
        bench.session.switch_cut(bench.session.cut_index + by)
        self.selected = len(bench.session.cut.lines) - 1
        self._changed()

    # leaving

    def action_leave(self) -> None:
        """Leave, asking once when the list is not saved."""
        bench = self.bench
        if bench is None or bench.session.is_saved or not bench.session.cut.lines:
            self.app.exit()
            return

        def answered(answer: str | None) -> None:
            if answer == "y":
                self.app.exit()
            elif answer == "s":
                self.action_save_list()

        question = "The cutting list is not saved. Leave all the same?"
        self.app.push_screen(ConfirmCard(question, {"y": "leave it unsaved", "s": "save the list first"}), answered)


def _column_by_part(text: str, names: list[str]) -> int | None:
    """Return the place of the column whose name starts with a text, else has it in it."""
    wanted = text.casefold()
    if not wanted:
        return None
    for test in (str.startswith, str.__contains__):
        for place, name in enumerate(names):
            if test(name.casefold(), wanted):
                return place
    return None
