"""The form of a slice of delimited text: its source's, unless the target's ending or an option says otherwise.

Who keeps files with semicolons and decimal commas wants slices that the same programs open.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from yardcut.core.formats import FORMATS, USUAL, Format
from yardcut.core.language.save_options import DECIMAL, DELIMITER, ENCODING, LINE_ENDS, QUOTE, SaveOption
from yardcut.core.language.write_options import WriteOptions, wrong_marks
from yardcut.core.sources.form.delimited_form import Form
from yardcut.core.table.stored_table import FileInfo
from yardcut.core.writers.plans import Plan

_BETWEEN = ";"
"""What stands between cells where the decimal mark cannot: the decimal comma and the comma are one character."""


def _delimiter(target: Format, source: Form) -> str:
    """Return what stands between cells: what a format's name says of it, on either side, is so."""
    named = {form.delimiter for form in FORMATS.values() if form is not USUAL}
    return target.delimiter if target is not USUAL or source.delimiter in named else source.delimiter


def in_source_form(plan: Plan, files: Sequence[FileInfo]) -> tuple[Plan, str]:
    """Return a plan completed by the form that all files of a source share, and how that is said ("": as usual)."""
    forms = [_form(file.form) for file in files]
    if not plan.format.delimiter or not forms or any(form is None or form != forms[0] for form in forms):
        return plan, ""
    source = forms[0]
    assert source is not None
    said, usual = plan.said, plan.options
    decimal = said[DECIMAL] or (source.decimal if source.decimal != said[DELIMITER] else ".")
    delimiter = said[DELIMITER] or _delimiter(plan.format, source)
    if decimal == delimiter and said[DELIMITER] is None:
        delimiter = _BETWEEN
    taken: dict[SaveOption[Any], Any] = {
        DELIMITER: delimiter, DECIMAL: decimal, QUOTE: said[QUOTE] or source.quote,
        ENCODING: said[ENCODING] or source.encoding,
        LINE_ENDS: said[LINE_ENDS] or ("crlf" if source.line_ends == "crlf" else "lf"),
    }  # fmt: skip
    options = WriteOptions.of({**dict(usual.said), **{option.name: value for option, value in taken.items()}})
    if wrong_marks(options) is not None:
        return plan, ""
    written = Form(delimiter, decimal, taken[ENCODING], taken[QUOTE], line_ends=taken[LINE_ENDS])
    differs = any(
        said[option] is None and value != _USUAL.get(option, plan.format.delimiter) for option, value in taken.items()
    )
    return replace(plan, options=options), f"written as its source is: {written.words()}" if differs else ""


_USUAL: dict[SaveOption[Any], str] = {DECIMAL: ".", QUOTE: '"', ENCODING: "utf-8", LINE_ENDS: "lf"}


def _form(form: dict[str, Any]) -> Form | None:
    """Return of a file's form what a slice takes over; ``None`` where it is not delimited text."""
    if "delimiter" not in form:
        return None
    return Form(
        form["delimiter"], form.get("decimal", "."), form.get("encoding", "utf-8"), form.get("quote", '"'),
        line_ends=form.get("line_ends", "lf"),
    )  # fmt: skip
