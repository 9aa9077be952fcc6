"""The source card: what was read and how, what was dropped or set aside, and the lines that would change it."""

from __future__ import annotations

from itertools import islice

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.language.syntax.source_lines import meaning
from yardcut.core.run.explaining.source_report import differences_of
from yardcut.core.sources.delimited_blocks.dropped import read_dropped
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.sources.kinds.set_aside import read_set_aside
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_column import Column
from yardcut.core.table.stored_table import FileInfo, Table
from yardcut.core.writers.left_out import left_out
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.cards.files.source_suggestions import applied, suggestions
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.text import clean, plural

SAVE_LEFT_OUT = "save what was left out"
_MOST_FILES, _MOST_DROPPED, _MOST_ASIDE = 40, 200, 50
Part = tuple[str, str]


class SourceCard(Card[str | None]):
    """Returns a sub-line to go on writing, ``SAVE_LEFT_OUT``, or nothing."""

    FOCUS = Focus.SOURCE

    def __init__(self, table: Table, spec: SourceSpec, about: str | None = None) -> None:
        super().__init__()
        self._table = table
        self._applied = applied(spec)
        self._about = next((column for column in table.columns if column.name == about), None)
        self._suggested = suggestions(table, spec, about)

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="source-card") as card:
            card.border_title = "source"
            with VerticalScroll(can_focus=True, id="source-said"):
                yield Static(Content.assemble(*of_column(self._about), *said(self._table)))
            yield Static(
                Content(f"lines that change how it is read; {key_of('source-choose')} goes on writing one"),
                classes="keys",
            )
            yield OptionList(*map(self._option, self._suggested))
        yield self.footer([] if any(left_out(self._table)) else ["source-save"])

    def _option(self, line: str) -> Content:
        """Show a line, whether it is in force, and what it says."""
        mark = ("● ", "$accent") if line in self._applied else ("  ", "")
        in_force = "in force: " if line in self._applied else ""
        return Content.assemble(mark, clean(line), (f"   {in_force}{clean(meaning(line))}", "$dim"))

    def on_mount(self) -> None:
        """Begin with the lines."""
        self.set_focus(self.query_one(OptionList))

    @on(OptionList.OptionSelected)
    def _chosen(self, event: OptionList.OptionSelected) -> None:
        self.dismiss(self._suggested[event.option_index])

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        lines, said_there = self.query_one(OptionList), self.query_one("#source-said", VerticalScroll)
        return {
            "source-away": self.put_away,
            "source-switch": lambda: self.set_focus(said_there if self.focused is lines else lines),
            "source-choose": self._choose,
            "source-save": self._save_left_out,
            **choice_calls(lines if self.focused is lines else said_there),
        }

    def _choose(self) -> None:
        place = self.query_one(OptionList).highlighted
        if place is not None:
            self.dismiss(self._suggested[place])

    def _save_left_out(self) -> None:
        """Ask where dropped rows and values set aside go."""
        if any(left_out(self._table)):
            self.dismiss(SAVE_LEFT_OUT)


def of_column(column: Column | None) -> list[Part]:
    """Say what is known of the column the cursor stands in: its kind, and how much has no value."""
    if column is None:
        return []
    info = column.info
    parts: list[Part] = [(f"{clean(info.name)}", "bold"), (f"  {info.kind}", "")]
    if info.pattern:
        parts.append((f" '{clean(info.pattern)}'", ""))
    if column.is_loaded:
        parts.append((f", {info.missing:,} without a value" if info.missing else ", a value in every row", "$dim"))
    return [*parts, ("\n\n", "")]


def said(table: Table) -> list[Part]:
    """Say what was read: the files, what is to be noted, values set aside, rows dropped with their places."""
    info = table.info
    parts: list[Part] = [(f"{plural(table.rows, 'row')} × {plural(len(table.columns), 'column')}\n", "bold")]
    for file in info.files[:_MOST_FILES]:
        parts += _file(file, table)
    if len(info.files) > _MOST_FILES:
        parts.append((f"and {len(info.files) - _MOST_FILES} more files\n", "$dim"))
    parts += [(f"! {clean(note)}\n", "$warning") for note in (*info.left_out, *info.notes)]
    parts += [(f"! {clean(column.name)}: {clean(column.info.doubt)}\n", "$warning") for column in table.columns
              if column.info.doubt]  # fmt: skip
    aside = [column for column in table.columns if column.info.set_aside]
    if aside:
        parts.append(("\nset aside: values that do not fit their column's kind\n", "bold $accent"))
    for column in aside:
        parts += _set_aside(table, column)
    if info.dropped():
        parts.append(
            (f"\ndropped: {plural(info.dropped(), 'row')} of the files are none of the table\n", "bold $accent")
        )
        for name, row in islice(read_dropped(table.folder), _MOST_DROPPED):
            where = f"  {clean(name)}, line {row.line:,}  "
            parts += [(where, "$dim"), (row.reason, "$warning"), (f"  {clean(row.text[:60])}\n", "")]
        if info.dropped() > _MOST_DROPPED:
            parts.append(
                (f"  and {info.dropped() - _MOST_DROPPED:,} more; {key_of('source-save')} saves them all\n", "$dim")
            )
    return parts


def _set_aside(table: Table, column: Column) -> list[Part]:
    info = column.info
    texts = ", ".join(f"{clean(text)} ×{times:,}" for text, times in info.set_aside_texts[:6])
    parts: list[Part] = [
        (f"  {clean(info.name)} ", "bold"),
        (f"{info.kind}  {info.set_aside:,}: {texts}\n", "$warning"),
    ]
    for value in islice(read_set_aside(table.folder, column.number), _MOST_ASIDE):
        where = f"line {value.line:,}" if value.line else f"row {value.row + 1:,} of the table"
        name = clean(table.info.files[value.file_number].label)
        parts += [(f"    {name}, {where}  ", "$dim"), (f"{clean(value.text[:60])}\n", "")]
    if info.set_aside > _MOST_ASIDE:
        parts.append(
            (f"    and {info.set_aside - _MOST_ASIDE:,} more; {key_of('source-save')} saves them all\n", "$dim")
        )
    return parts


def _file(file: FileInfo, table: Table) -> list[Part]:
    parts: list[Part] = [(clean(file.label), "bold"), (f"  {plural(file.rows, 'row')}\n", "")]
    form = file.form
    if "delimiter" in form:
        words = Form(**form).words()
    else:
        words = ", ".join(f"{part} {value}" for part, value in form.items() if value not in ("", [], None))
    parts.append((f"  {clean(words)}\n", "$dim"))
    if file.dropped:
        parts.append((f"  dropped: {', '.join(file.dropped_words())}\n", "$warning"))
    differs = differences_of(file, table).removeprefix(f"{file.label}: ")
    if differs:
        parts.append((f"  {clean(differs)}\n", "$none"))
    return parts
