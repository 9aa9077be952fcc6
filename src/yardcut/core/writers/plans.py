"""How a target is written: its format, its options, and its compression; checked against each other beforehand."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

from yardcut.core.errors import Mend, TargetError
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions, wrong_marks
from yardcut.core.writers.formats.compressing import ENDINGS
from yardcut.core.writers.formats_known import BY_ENDING, FORMATS, Format, named


@dataclass(frozen=True, slots=True)
class Plan:
    """How a target is written; ``compression`` is "" for none, ``said`` are the options somebody wrote."""

    format: Format
    options: WriteOptions = NO_OPTIONS
    compression: str = ""
    said: WriteOptions = NO_OPTIONS


_TAKES = {
    "delimited": {"delimiter", "decimal", "quote", "encoding", "header", "quoting", "line_ends", "missing", "guard"},
    "parquet": {"compression", "group_rows"},
    "workbook": {"table", "header"},
    "database": {"table"},
}
_WORDS = {"line_ends": "line ends", "group_rows": "row groups of", "guard": "guard formulas"}
_COMPRESSIONS = ("zstd", "snappy", "gzip", "brotli", "lz4", "none")


def options_of(name: str) -> set[str]:
    """Return the names of the options a format takes."""
    return _TAKES.get(FORMATS[name].module, set()) | {"with_list"}


def plan_of(path: Path, named_format: str | None = None, options: WriteOptions = NO_OPTIONS) -> Plan:
    """Return how a path is written, by name or by its ending.

    Raises ``TargetError`` for what no format does, and for options the format does not have.
    """
    compression = ENDINGS.get(path.suffix.lower(), "")
    inner = path.with_suffix("") if compression else path
    found = named_format or BY_ENDING.get(inner.suffix.lower()) or inner.suffix.lower().lstrip(".")
    if found not in FORMATS:
        said = f"{path.name} does not say in which format to write"
        what = said if not named_format else f"there is no format {named_format}"
        raise TargetError(what, mend=Mend(f"end the path in .csv or .parquet, or add as and one of {named()}"))
    form = FORMATS[found]
    if compression and not form.is_text:
        ending = form.endings[0]
        raise TargetError(
            f"{form.name} is not compressed as a whole file",
            mend=Mend(f"end the path in {ending}" + ("; it is compressed within" if form.name == "parquet" else "")),
        )
    takes = options_of(found)
    for option in options.named():
        if option not in takes:
            raise TargetError(
                f"{form.name} has no {_WORDS.get(option, option)}", mend=Mend("leave it out, or write another format")
            )
    if options.compression is not None and options.compression not in _COMPRESSIONS:
        raise TargetError(
            f"parquet is not compressed with {options.compression}", mend=Mend(f"one of {', '.join(_COMPRESSIONS)}")
        )
    if not form.delimiter:
        return Plan(form, options, compression, options)
    full = replace(
        options, delimiter=options.delimiter or form.delimiter, quote=options.quote or '"',
        decimal=options.decimal or ".",
    )  # fmt: skip
    wrong = wrong_marks(full)
    if wrong is not None:
        raise TargetError(wrong, mend=Mend("add: delimiter ';'" if options.delimiter is None else "change one of them"))
    return Plan(form, replace(options, delimiter=full.delimiter), compression, options)
