"""The source card: what was read and how, what was dropped or set aside, and the lines that would change it."""

from __future__ import annotations

from itertools import islice

from textual import on
from textual.app import ComposeResult
from textual.containers import Vertical, VerticalScroll
from textual.content import Content
from textual.widgets import OptionList, Static

from yardcut.core.language.printing import name_text
from yardcut.core.language.source_lines import sub_line_text
from yardcut.core.near import likeliest_name
from yardcut.core.sources.dropped import read_dropped
from yardcut.core.sources.form import Form
from yardcut.core.sources.set_aside import read_set_aside
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.column import Column
from yardcut.core.table.table import FileInfo, Table
from yardcut.core.values.formatting import quote_name, quote_text
from yardcut.core.writers.left_out import left_out
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.choices import choice_calls
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import clean, plural

SAVE_LEFT_OUT = "save what was left out"
_MOST_FILES, _MOST_DROPPED, _MOST_ASIDE = 40, 200, 50
_MOST_SETTLED, _MOST_NAMED, _LIKELY = 6, 12, 40
_FORM_PARTS = ("delimiter", "decimal", "thousands", "quote", "encoding", "comment", "skip", "header")
Part = tuple[str, str]


class SourceCard(Card[str | None]):
    """Returns a sub-line to go on writing, ``SAVE_LEFT_OUT``, or nothing."""

    FOCUS = Focus.SOURCE

    def __init__(self, table: Table, spec: SourceSpec) -> None:
        super().__init__()
        self._table = table
        self._suggested = suggestions(table, spec)

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        with Vertical(classes="card", id="source-card") as card:
            card.border_title = "source"
            with VerticalScroll(can_focus=True, id="source-said"):
                yield Static(Content.assemble(*said(self._table)))
            yield Static(Content("lines that change how it is read; Enter goes on writing one"), classes="keys")
            yield OptionList(*(Content(clean(line)) for line in self._suggested))
            save = "   s save what was left out" if any(left_out(self._table)) else ""
            yield Static(
                Content(f"Tab read or choose   ↑ ↓   Enter write the line{save}   Esc put away"), classes="keys"
            )

    def on_mount(self) -> None:
        """Begin with the lines."""
        self.query_one(OptionList).focus()

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


def said(table: Table) -> list[Part]:
    """Say what was read: the files, what is to be noted, values set aside, rows dropped with their places."""
    info = table.info
    parts: list[Part] = [(f"{plural(table.rows, 'row')} × {plural(len(table.columns), 'column')}\n", "bold")]
    for file in info.files[:_MOST_FILES]:
        parts += _file(file)
    if len(info.files) > _MOST_FILES:
        parts.append((f"and {len(info.files) - _MOST_FILES} more files\n", "$dim"))
    parts += [(f"! {clean(note)}\n", "$warning") for note in info.notes]
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
            parts.append((f"  and {info.dropped() - _MOST_DROPPED:,} more; s saves them all\n", "$dim"))
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
        parts.append((f"    and {info.set_aside - _MOST_ASIDE:,} more; s saves them all\n", "$dim"))
    return parts


def _file(file: FileInfo) -> list[Part]:
    parts: list[Part] = [(clean(file.label), "bold"), (f"  {plural(file.rows, 'row')}\n", "")]
    form = file.form
    if "delimiter" in form:
        words = Form(**form).words()
    else:
        words = ", ".join(f"{part} {value}" for part, value in form.items() if value not in ("", [], None))
    parts.append((f"  {clean(words)}\n", "$dim"))
    if file.dropped:
        parts.append((f"  dropped: {', '.join(file.dropped_words())}\n", "$warning"))
    sentences = file.differences.sentences()
    if sentences:
        more = f" and {len(sentences) - 8} more" if len(sentences) > 8 else ""
        parts.append((f"  {clean(', '.join(sentences[:8]))}{more}\n", "$none"))
    return parts


def suggestions(table: Table, spec: SourceSpec) -> list[str]:
    """Return sub-lines to begin with: what was said already, the form as it was guessed, and an example of each."""
    found = [sub_line_text(line) for line in spec.lines]
    if len(table.info.files) > 1:
        found += settling(table)
    form = table.info.files[0].form if table.info.files else {}
    if "delimiter" in form:
        found += [_form_line(part, form[part]) for part in _FORM_PARTS]
    if form.get("format") == "workbook":
        found += [f"table {quote_text(name)}" for name in form.get("worksheets", [])] + ["cells 'A1'"]
    if len(table.info.files) > 1:
        found.append("file column from_file")
    name = name_text(table.columns[0].name) if table.columns else "name"
    text = next((name_text(c.name) for c in table.columns if c.kind == "text"), name)
    found += [f"no value '', 'NA', '--' in {name}", f"kind {text} text", f"kind {text} date 'DD.MM.YYYY'",
              f"kind {text} boolean 'J', 'N'", f"call {name} {name}", f"only {name}"]  # fmt: skip
    return list(dict.fromkeys(found))


def settling(table: Table) -> list[str]:
    """Return sub-lines that would settle where files differ: columns called otherwise, of another kind, or left out.

    A column that one file alone has may be the one it lacks under another name; the likeliest pairs come first.
    """
    found: list[str] = []
    for file in table.info.files:
        differs = file.differences
        where = quote_name(file.label)
        for name in differs.alone[:_MOST_SETTLED]:
            is_only_pair = len(differs.alone) == len(differs.lacks) == 1
            likely = likeliest_name(name, differs.lacks, 0 if is_only_pair else _LIKELY)
            if likely is not None:
                found.append(f"call {name_text(name)} {name_text(likely)} in {where}")
        found += [f"kind {name_text(name)} {kind}" for name, kind in differs.kinds[:_MOST_SETTLED]]
    shared = [column.name for column in table.columns if all(column.name not in file.differences.alone
                                                             for file in table.info.files)]  # fmt: skip
    if 0 < len(shared) < len(table.columns) and len(shared) <= _MOST_NAMED:
        found.append("only " + ", ".join(map(name_text, shared)))
    return found


def _form_line(part: str, value: object) -> str:
    if part == "skip":
        return f"form skip {value}"
    if part == "header":
        return "form header " + {0: "no", 1: "yes"}.get(int(str(value)), str(value))
    written = quote_text(str(value)) if value != "\t" else "'\\t'"
    return f"form {part} {written}"
