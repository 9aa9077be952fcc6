"""The sub-lines the source card offers: which are in force, what settles a doubt, and the form as it was guessed."""

from __future__ import annotations

from yardcut.core.language.syntax.printing import name_text
from yardcut.core.language.syntax.source_lines import sub_line_text
from yardcut.core.run.explaining.source_report import settling
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.formatting import quote_text
from yardcut.core.values.kinds import Kind

_FORM_PARTS = ("delimiter", "decimal", "thousands", "quote", "encoding", "comment", "skip", "header")


def suggestions(table: Table, spec: SourceSpec, about: str | None = None) -> list[str]:
    """Return sub-lines to begin with, those that are in force first.

    Then come those that settle what is in doubt, those about one column (the cursor's), and the form as it was guessed.
    """
    found = [*applied(spec), *settling(table)]
    form = table.info.files[0].form if table.info.files else {}
    column = next((column for column in table.columns if column.name == about), None)
    if column is not None:
        found += _about(column.name, column.kind)
    if "delimiter" in form:
        found += [_form_line(part, form[part]) for part in _FORM_PARTS]
        found.append("form footer 0")
    if form.get("format") == "workbook":
        found += [f"table {quote_text(name)}" for name in form.get("worksheets", [])] + ["cells 'A1'"]
    if len(table.info.files) > 1:
        found.append("file column from_file")
    if column is None and table.columns:
        text = next((column for column in table.columns if column.kind is Kind.TEXT), table.columns[0])
        found += _about(text.name, Kind.TEXT)
    if table.columns:
        found.append(f"only {name_text(about or table.columns[0].name)}")
    return list(dict.fromkeys(found))


def applied(spec: SourceSpec) -> list[str]:
    """Return the sub-lines that are in force."""
    return [sub_line_text(line) for line in spec.lines]


def _about(name: str, kind: Kind) -> list[str]:
    written = name_text(name)
    found = [f"no value '', 'NA', '--' in {written}", f"call {written} {written}"]
    if kind is Kind.TEXT:
        return [
            *found,
            f"kind {written} number",
            f"kind {written} date 'DD.MM.YYYY'",
            f"kind {written} boolean 'J', 'N'",
        ]
    return [*found, f"kind {written} text"]


def _form_line(part: str, value: object) -> str:
    if part == "skip":
        return f"form skip {value}"
    if part == "header":
        return "form header " + {0: "no", 1: "yes"}.get(int(str(value)), str(value))
    written = quote_text(str(value)) if value != "\t" else "'\\t'"
    return f"form {part} {written}"
