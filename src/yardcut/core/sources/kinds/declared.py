"""Reading texts as a declared kind: dates in a pattern, day counts, Unix times, pairs for booleans."""

from __future__ import annotations

import datetime
import re

import numpy as np

from yardcut.core.sources.delimited_blocks.row_places import RowPlaces
from yardcut.core.sources.kinds.day_patterns import Parser, pattern_parser
from yardcut.core.sources.kinds.decorated import decorated_number
from yardcut.core.sources.kinds.guessing_kinds import NeverNumericError, convert
from yardcut.core.sources.kinds.set_aside import SetAside
from yardcut.core.sources.spec import DeclaredKind
from yardcut.core.sources.store.builders import NumericBuilder, TextBuilder
from yardcut.core.values.formatting import Value
from yardcut.core.values.kinds import STORAGE_DTYPE, Kind
from yardcut.core.values.temporal import EPOCH, offset_written

_CHUNK_ROWS = 1 << 17
_EXACT = 1 << 53
_WORKBOOK_EPOCH = datetime.date(1899, 12, 30).toordinal() - EPOCH


def parser_of(declared: DeclaredKind, marks: str) -> Parser:
    """Return the reader of texts of a declared kind; it returns ``None`` for a text that does not fit."""
    kind, patterns = declared.kind, declared.patterns
    if kind is Kind.BOOLEAN and len(patterns) == 2:
        truths = {patterns[0].casefold(): True, patterns[1].casefold(): False}
        return lambda text: truths.get(text.strip().casefold())
    if patterns and patterns[0] in ("serial", "unix", "unix ms"):
        return _counted(patterns[0], kind)
    if patterns:
        read = pattern_parser(patterns[0])
        with_clock = "HH" in patterns[0]
        if kind is Kind.DATE and with_clock:
            return lambda text: None if (found := read(text)) is None else int(found) // 86_400_000_000
        if kind is Kind.TIMESTAMP and not with_clock:
            return lambda text: None if (found := read(text)) is None else int(found) * 86_400_000_000
        return read

    def plain(text: str) -> Value | None:
        try:
            found = convert([text], kind, marks).values[0]
        except NeverNumericError:
            found = _despite_zero(text, kind, marks)
        if found is not None or not kind.is_numeric:
            return found
        number = decorated_number(text, marks)
        if number is None or kind is Kind.NUMBER:
            return number
        return int(number) if number.is_integer() and abs(number) < _EXACT else None

    return plain


def _despite_zero(text: str, kind: Kind, marks: str) -> Value | None:
    """A declared number may lose its leading zeros; an integer beyond 64 bits still does not fit."""
    shorter = re.sub(r"^([+-]?)0+(?=\d)", r"\1", text.strip())
    try:
        return convert([shorter], kind, marks).values[0]
    except NeverNumericError:
        return None


def _counted(how: str, kind: Kind) -> Parser:
    def parse(text: str) -> int | None:
        try:
            value = float(text.strip().replace(",", "."))
            if how == "serial":
                days = value + _WORKBOOK_EPOCH
                counted = int(days // 1) if kind is Kind.DATE else round(days * 86_400_000_000)
            else:
                microseconds = round(value * (1_000 if how == "unix ms" else 1_000_000))
                counted = microseconds // 86_400_000_000 if kind is Kind.DATE else microseconds
            days = counted if kind is Kind.DATE else counted // 86_400_000_000
            datetime.date.fromordinal(days + EPOCH)
        except (ValueError, OverflowError):
            return None
        return counted

    return parse


def convert_column(
    builder: TextBuilder, declared: DeclaredKind, set_aside: SetAside, marks: str, places: RowPlaces, zones: set[str]
) -> NumericBuilder:
    """Turn a text column that was written whole into one of a declared kind; what does not fit is set aside.

    The offsets from UTC that instants are written with are added to ``zones``.
    """
    parse = parser_of(declared, marks)
    kind = declared.kind
    empty = float("nan") if kind is Kind.NUMBER else 0
    narrow = NumericBuilder(builder.parts, builder.number, kind)
    known: dict[str, Value | None] = {}
    for start, texts in builder.read_back(_CHUNK_ROWS):
        values, unfit = [], []
        for row, text in enumerate(texts):
            value = None
            if text is not None and text.strip():
                if text not in known:
                    known[text] = parse(text)
                    if kind is Kind.INSTANT and known[text] is not None:
                        zones.add(offset_written(text.strip()))
                value = known[text]
                if value is None:
                    unfit.append((row, text))
            values.append(value)
        if len(known) > 1 << 20:
            known.clear()
        valid = np.array([value is not None for value in values], dtype=np.bool_)
        filled = np.array([empty if value is None else value for value in values], dtype=STORAGE_DTYPE[kind])
        narrow.append(filled, None if valid.all() else valid)
        set_aside.add(start, unfit, [places.place(start + row) for row, _ in unfit])
    builder.drop()
    return narrow
