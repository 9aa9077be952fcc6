"""Which sub-lines of a source can apply to which files: one that says nothing about any of them is wrong."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.form.delimited_form import read_head
from yardcut.core.sources.spec import CellsLine, FormLine, NoValueLine, QueryLine, SourceSpec, SubLine, TableLine

_ROWS_OF_FORM = frozenset(["skip", "header", "footer"])
_ALL_OF_FORM = frozenset(part.name for part in fields(FormLine) if part.name != "file")
_FORM_TAKEN: dict[str, frozenset[str]] = {"delimited": _ALL_OF_FORM, "workbook": _ROWS_OF_FORM}
_TAKEN: dict[type[SubLine], tuple[str, ...]] = {
    TableLine: ("workbook", "sqlite"),
    CellsLine: ("workbook",),
    QueryLine: ("sqlite",),
    NoValueLine: ("delimited", "workbook", "sqlite", "json"),
}
_WORDS = {TableLine: "table", CellsLine: "cells", QueryLine: "query", NoValueLine: "no value", FormLine: "form"}
_NAMES = {
    "delimited": "delimited text", "workbook": "a workbook", "sqlite": "a database", "json": "JSON",
    "parquet": "Parquet", "arrow": "Arrow",
}  # fmt: skip


class WrongSubLineError(SourceError):
    """A sub-line that cannot apply to the files it is about; ``line`` is that."""

    def __init__(self, message: str, line: SubLine, mend: Mend) -> None:
        super().__init__(message, mend=mend)
        self.line = line


def check_lines(spec: SourceSpec, paths: Sequence[Path]) -> None:
    """Raise ``WrongSubLineError`` for the first sub-line that none of the files it is about can take."""
    from yardcut.core.sources.formats.format_of_files import format_of_file

    some = [line for line in spec.lines if type(line) in _WORDS]
    formats: dict[Path, str] = {}
    for path in paths if some else ():
        try:
            formats[path] = format_of_file(read_head(path, 1 << 12))
        except SourceError:  # it is told of when it is opened
            continue
    for line in some:
        about = {path: form for path, form in formats.items() if line.applies(path)}
        if about and not any(_takes(form, line) for form in about.values()):
            path, form = next(iter(about.items()))
            raise WrongSubLineError(
                f"the {_WORDS[type(line)]} line cannot apply to {path.name}, which is {_NAMES[form]}",
                line,
                _mend(line, form),
            )


def _takes(form: str, line: SubLine) -> bool:
    if isinstance(line, FormLine):
        said = {name for name in _ALL_OF_FORM if getattr(line, name) is not None}
        return said <= _FORM_TAKEN.get(form, frozenset())
    return form in _TAKEN[type(line)]


def _mend(line: SubLine, form: str) -> Mend:
    if isinstance(line, NoValueLine):
        return Mend("take it out, and make a column without that text: make x = NULLIF(x, '?')")
    if isinstance(line, FormLine) and form == "workbook":
        return Mend("of a workbook it takes skip, header and footer")
    return Mend("take the line out, or name another file")
