"""How a target is written: its format, its options, and its compression; checked against each other beforehand."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.errors import Mend, TargetError
from yardcut.core.formats import FORMATS, Format, format_by_ending, named_formats
from yardcut.core.language.save_options import COMPRESSION, COMPRESSIONS, DECIMAL, DELIMITER, QUOTE
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions, wrong_marks
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.writers.formats.compressing import ENDINGS


@dataclass(frozen=True, slots=True)
class Plan:
    """How a target is written; ``compression`` is "" for none, ``said`` are the options somebody wrote.

    ``carries`` is the text of the list that the slice remembers, in formats that have a place for it.
    """

    format: Format
    options: WriteOptions = NO_OPTIONS
    compression: str = ""
    said: WriteOptions = NO_OPTIONS
    carries: str = ""


def plan_of(path: Path, named_format: str | None = None, options: WriteOptions = NO_OPTIONS) -> Plan:
    """Return how a path is written, by name or by its ending.

    Raises ``TargetError`` for what no format does, and for options the format does not have.
    """
    compression = ENDINGS.get(path.suffix.lower(), "")
    inner = path.with_suffix("") if compression else path
    form = FORMATS.get(named_format) if named_format else format_by_ending(inner.suffix.lower())
    if form is None or not form.write:
        said = f"{path.name} does not say in which format to write"
        what = said if not named_format else f"there is no format {named_format}"
        raise TargetError(what, mend=Mend(f"end the path in .csv or .parquet, or add as and one of {named_formats()}"))
    if compression and not form.is_text:
        ending = form.endings[0]
        raise TargetError(
            f"{form.name} is not compressed as a whole file",
            mend=Mend(f"end the path in {ending}" + ("; it is compressed within" if form.name == "parquet" else "")),
        )
    for option in options.options():
        if not option.is_of(form.name):
            raise TargetError(f"{form.name} has no {option.words}", mend=Mend("leave it out, or write another format"))
    if options[COMPRESSION] not in (None, *COMPRESSIONS):
        raise TargetError(
            f"parquet is not compressed with {options[COMPRESSION]}", mend=Mend(f"one of {', '.join(COMPRESSIONS)}")
        )
    if not form.delimiter:
        return Plan(form, options, compression, options)
    parted = options.with_value(DELIMITER, options[DELIMITER] or form.delimiter)
    full = parted.with_value(QUOTE, options[QUOTE] or '"').with_value(DECIMAL, options[DECIMAL] or ".")
    wrong = wrong_marks(full)
    if wrong is not None:
        raise TargetError(
            wrong, mend=Mend("add: delimiter ';'" if options[DELIMITER] is None else "change one of them")
        )
    return Plan(form, parted, compression, options)
