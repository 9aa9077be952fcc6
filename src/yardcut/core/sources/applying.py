"""Which sub-lines of a source can apply to which files: one that says nothing about any of them is wrong."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import fields
from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.formats import Format
from yardcut.core.sources.spec import (
    CellsLine,
    FormLine,
    KeyLine,
    NoValueLine,
    QueryLine,
    SourceSpec,
    SubLine,
    TableLine,
)

_ALL_OF_FORM = frozenset(part.name for part in fields(FormLine) if part.name != "file")
_WORDS = {TableLine: "table", CellsLine: "cells", QueryLine: "query", NoValueLine: "no value", FormLine: "form",
          KeyLine: "key"}  # fmt: skip


class WrongSubLineError(SourceError):
    """A sub-line that cannot apply to the files it is about; ``line`` is that."""

    def __init__(self, message: str, line: SubLine, mend: Mend) -> None:
        super().__init__(message, mend=mend)
        self.line = line


def check_lines(spec: SourceSpec, paths: Sequence[Path]) -> None:
    """Raise ``WrongSubLineError`` for the first sub-line that none of the files it is about can take."""
    from yardcut.core.sources.formats.format_of_files import format_of_file

    some = [line for line in spec.lines if type(line) in _WORDS]
    formats: dict[Path, Format] = {}
    for path in paths if some else ():
        try:
            formats[path] = format_of_file(path)
        except SourceError:  # it is told of when it is opened
            continue
    for line in some:
        about = {path: form for path, form in formats.items() if line.applies(path)}
        if about and not any(_takes(form, line) for form in about.values()):
            path, form = next(iter(about.items()))
            raise WrongSubLineError(
                f"the {_WORDS[type(line)]} line cannot apply to {path.name}, which is {form.is_about}",
                line,
                _mend(line, form),
            )


def _takes(form: Format, line: SubLine) -> bool:
    if isinstance(line, FormLine):
        said = {name for name in _ALL_OF_FORM if getattr(line, name) is not None}
        return form.form_parts is None or said <= set(form.form_parts)
    return _WORDS[type(line)] in form.takes


def _mend(line: SubLine, form: Format) -> Mend:
    if isinstance(line, NoValueLine):
        return Mend("take it out, and make a column without that text: make x = NULLIF(x, '?')")
    if isinstance(line, FormLine) and form.form_parts:
        *most, last = form.form_parts
        return Mend(f"of {form.is_about} it takes {', '.join(most)} and {last}")
    return Mend("take the line out, or name another file")
