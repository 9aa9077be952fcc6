"""What a column of texts may be instead, or may have lost: said at opening, with the lines that settle it."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.kinds.decorated import decorated_number, marks_around
from yardcut.core.values.formatting import quote_name, quote_text
from yardcut.core.values.kinds import Kind
from yardcut.core.values.temporal import parse_date, parse_instant, parse_time, parse_timestamp, refusal

_NAMED = 3
CODE = "NA"
_CODE_LENGTH = 3
_MOST_CODES = 200
_GROUPS = re.compile(r"[+-]?[1-9]\d{0,2}([.,])\d{3}\Z", re.ASCII)
_PLAIN_WORD = re.compile(r"[^\W\d]\w*\Z")


@dataclass(frozen=True, slots=True)
class Doubt:
    """A sentence about a column, and sub-lines of which any settles it."""

    sentence: str
    lines: tuple[str, ...] = ()


def name_written(name: str) -> str:
    """Write a column's name as it stands in a sub-line."""
    return name if _PLAIN_WORD.match(name) and name.isascii() else quote_name(name)


def lost_codes(rows: Sequence[Sequence[str | None]], no_values: Sequence[tuple[str, ...]]) -> set[int]:
    """Return the places of the columns in which ``NA`` stands in some rows and means no value."""
    return {place for place, texts in enumerate(no_values) if CODE in texts and any(row[place] == CODE for row in rows)}


def lost_code(name: str, counted: Counter[str]) -> Doubt | None:
    """Doubt that ``NA`` means no value in a column of codes, in which it stands: short words, or words in capitals."""
    if not counted or len(counted) > _MOST_CODES or not all(text.strip().isalpha() for text in counted):
        return None
    if any(len(text) > _CODE_LENGTH and not text.isupper() for text in counted):
        return None
    line = f"no value '' in {name_written(name)}"
    return Doubt(f"'NA' stands among its codes and is read as no value; to keep it as a code: {line}", (line,))


def doubt_about_text(name: str, counted: Counter[str], marks: str) -> Doubt | None:
    """Say what a column of texts looks like that it was not read as; ``None`` where it is plain text."""
    return _thousands_or_decimals(counted) or _decorated(name, counted, marks) or _impossible(name, counted)


def _thousands_or_decimals(counted: Counter[str]) -> Doubt | None:
    found = {match[1] if (match := _GROUPS.match(text.strip())) else "" for text in counted}
    mark = next(iter(found)) if len(found) == 1 else ""
    if not mark:
        return None
    example = next(iter(counted))
    decimal, thousands = f"form decimal '{mark}'", f"form thousands '{mark}'"
    return Doubt(
        f"{quote_text(example)} may be a decimal or a thousand, so it stays text; say {decimal} or {thousands}",
        (decimal, thousands),
    )


def _decorated(name: str, counted: Counter[str], marks: str) -> Doubt | None:
    around: set[str] = set()
    for text in counted:
        if decorated_number(text, marks) is None:
            return None
        around |= set(marks_around(text))
    if not around:
        return None
    line = f"kind {name_written(name)} number"
    return Doubt(f"its numbers have {', '.join(sorted(around))}, so it stays text; as numbers: {line}", (line,))


def _impossible(name: str, counted: Counter[str]) -> Doubt | None:
    refused: dict[str, str] = {}
    forms: Counter[Kind] = Counter()
    for text, times in counted.items():
        form = _form(text.strip())
        if form is None:
            return None
        forms[form] += times
        if (reason := refusal(text)) and len(refused) < _NAMED:
            refused[text] = reason
    if not forms:
        return None
    line = f"kind {name_written(name)} {forms.most_common(1)[0][0]}"
    if len(forms) > 1:
        kinds = " and ".join(sorted(forms))
        return Doubt(f"its values look like {kinds}, so it stays text; to set the fewer aside: {line}", (line,))
    said = "; ".join(f"{quote_text(text)}: {reason}" for text, reason in refused.items())
    if not said:
        return None
    return Doubt(f"stays text for values that no calendar or clock has ({said}); to set them aside: {line}", (line,))


def _form(text: str) -> Kind | None:
    """Return the kind a text has the form of, whether or not there is such a day or time; ``None`` for any other."""
    forms = ((parse_date, Kind.DATE), (parse_timestamp, Kind.TIMESTAMP), (parse_instant, Kind.INSTANT),
             (parse_time, Kind.TIME))  # fmt: skip
    for parse, kind in forms:
        try:
            if parse(text) is not None:
                return kind
        except ValueError:
            return kind
    return None
