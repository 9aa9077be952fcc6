"""Ways of saying a thing that are written otherwise here: each is tried, and offered where the line then reads."""

from __future__ import annotations

import re
from collections.abc import Iterator

from yardcut.core.language.helping.mends_of_slips import QUOTED

_WORD = r"[^\W\d]\w*"
_COLUMN = rf"(?:{_WORD}|\"[^\"\n]+\")"
_VALUE = r"[^(),]+"
_NOTHING = r"(?:missing|null|empty|none|nan|na|nil|blank)"
_ORDER = r"(?P<before>^(?:off\s+)?order\b.*?)"

_FUNCTIONS: tuple[tuple[str, str, str], ...] = (
    ("CHAR_LENGTH", "len|length|nchar", "the number of characters"),
    ("AVG", "mean|average", "the average"),
    ("SUM", "total", "the sum"),
    ("MAX", "maximum", "the largest value"),
    ("MIN", "minimum", "the least value"),
    ("STDDEV_SAMP", "stddev|stdev|std|sd", "the standard deviation"),
    ("VAR_SAMP", "variance|var", "the variance"),
    ("QUANTILE", "percentile|percentile_cont|quantile_cont|percentile_approx", "the value below which a share lies"),
    ("CEILING", "ceil|roundup", "the next whole number above"),
    ("FLOOR", "rounddown|trunc|truncate|int", "the next whole number below"),
    ("POWER", "pow", "a power"),
    ("LN", "log", "the natural logarithm"),
    ("SUBSTRING", "substr|mid", "part of a text"),
    ("UPPER", "ucase|toupper|uppercase", "a text in capitals"),
    ("LOWER", "lcase|tolower|lowercase", "a text without capitals"),
    ("TRIM", "strip", "a text without blanks around it"),
    ("COALESCE", "ifnull|nvl|isnull|fillna|replace_na", "the first value that is there"),
)
"""Our function, what others call it (alternatives of a pattern), and what it does."""

_PHRASES: tuple[tuple[str, str, str], ...] = (
    (rf"\bis\s+not\s+{_NOTHING}\b", "IS NOT NULL", "a value that is there is IS NOT NULL"),
    (rf"\bis\s+{_NOTHING}\b", "IS NULL", "no value is IS NULL"),
    (rf"(?<=[\w\"])\s+not\s+{_NOTHING}\b", " IS NOT NULL", "a value that is there is IS NOT NULL"),
    (
        rf"^((?:off\s+)?(?:keep|drop))\s+{_NOTHING}\s+(?P<column>{_COLUMN})$",
        r"\1 \g<column> IS NULL",
        "no value is IS NULL",
    ),
    (
        rf"^((?:off\s+)?(?:keep|drop))\s+not\s+{_NOTHING}\s+(?P<column>{_COLUMN})$",
        r"\1 \g<column> IS NOT NULL",
        "a value that is there is IS NOT NULL",
    ),
    (r"\b(?:descending|down|high\s+to\s+low)\b", "DESC", "from the largest down is DESC"),
    (r"\b(?:ascending|up|low\s+to\s+high)\b", "ASC", "from the smallest up is ASC"),
    (r"(\d)\s*%", r"\1 percent", "a share of the rows is written percent"),
    (
        rf"^((?:off\s+)?draw\s+(?:random|first|last|stratified)\s+\d+(?:\s*%|\s+percent)?)"
        rf"\s+(?:by|for\s+each|in\s+each|each)\s+(?={_COLUMN})",
        r"\1 per ",
        "groups are named by per",
    ),
    (
        rf"^((?:off\s+)?draw\s+(?:top|bottom)\s+\d+(?:\s+percent)?)\s+(?=-?{_COLUMN})",
        r"\1 by ",
        "what decides stands behind by",
    ),
    (
        r"^(off\s+)?(?:keep|take)\s+(?=(?:top|bottom|first|last|random)\s+\d)",
        r"\1draw ",
        "a number of rows is taken by draw",
    ),
    (r"^((?:off\s+)?make\s+\S+)\s*:=\s*", r"\1 = ", "a made column stands behind its name and ="),
    (r"\bafter\b", ">", "later than a day is >"),
    (r"\bbefore\b", "<", "earlier than a day is <"),
    (
        rf"\b(year|quarter|month|week|day|weekday|hour|minute|second)\s*\(\s*({_VALUE}?)\s*\)",
        r"EXTRACT(\1 FROM \2)",
        "a part of a day is taken by EXTRACT",
    ),
    (
        rf"\bif\s*\(\s*({_VALUE}?)\s*,\s*({_VALUE}?)\s*,\s*({_VALUE}?)\s*\)",
        r"CASE WHEN \1 THEN \2 ELSE \3 END",
        "a choice is written CASE WHEN … THEN … ELSE … END",
    ),
    (
        rf"\biif?f?\s*\(\s*({_VALUE}?)\s*,\s*({_VALUE}?)\s*,\s*({_VALUE}?)\s*\)",
        r"CASE WHEN \1 THEN \2 ELSE \3 END",
        "a choice is written CASE WHEN … THEN … ELSE … END",
    ),
    (
        rf"\bdatediff\s*\(\s*({_VALUE}?)\s*,\s*({_VALUE}?)\s*\)",
        r"(\1 - \2)",
        "the days between are one day less the other",
    ),
    (rf"\b(?:isnull|isna|is_null|ismissing)\s*\(\s*({_VALUE}?)\s*\)", r"\1 IS NULL", "no value is IS NULL"),
    (r"\b(?:n|nrow|count_rows|count)\s*\(\s*\)", "COUNT(*)", "how many rows is COUNT(*)"),
    (
        r"\b(?:nunique|countd|count_distinct|n_distinct|distinct_count)\s*\(",
        "COUNT(DISTINCT ",
        "how many different values is COUNT(DISTINCT …)",
    ),
    (
        rf"{_ORDER}(?<!in)\s+(?:(?:in\s+)?order|by\s+list|sequence)\s*\(",
        r"\g<before> IN SEQUENCE (",
        "one's own sequence is IN SEQUENCE (…)",
    ),
    (
        rf"{_ORDER}\s+(?:natural(?:\s+(?:sort|order))?|numerically|alphanumeric|version)(?!\w)",
        r"\g<before> NUMBER AWARE",
        "texts by the numbers in them is NUMBER AWARE",
    ),
    (
        rf"{_ORDER}\s+(?:no\s?case|ignore\s?case|ci|case[- ]?insensitive)(?!\w)",
        r"\g<before> IGNORING CASE",
        "capitals are not regarded with IGNORING CASE",
    ),
    (
        rf"{_ORDER}\s+(?:missing|blanks?|na|nan|nulls?|empty)\s+(first|last)(?!\w)",
        r"\g<before> NULLS \2",
        "where missing values stand is NULLS FIRST or NULLS LAST",
    ),
    *((rf"\b(?:{names})\s*\(", f"{ours}(", f"{does} is {ours}") for ours, names, does in _FUNCTIONS),
    (r"\b(?:today|now|current_date)\s*\(\s*\)", "CURRENT_DATE", "the day of today is CURRENT_DATE"),
    (r"^(off\s+)?save\s+(?:as|to|in|into)\s+(?=\S)", r"\1save ", "the file stands right behind save"),
    (
        rf"^(off\s+)?columns\s+({_COLUMN})\s+(?:to|into|=>|->)\s+({_COLUMN})$",
        r"\1columns \2 AS \3",
        "another name stands behind AS",
    ),
)
_CONCAT = re.compile(r"\bconcat\s*\(([^()]*)\)", re.IGNORECASE)
_BARE_LIST = re.compile(rf"\bin\s+({_WORD}(?:\s*,\s*{_WORD})*)$", re.IGNORECASE)


def phrased_otherwise(text: str) -> Iterator[tuple[str, str]]:
    """Yield (what is meant, corrected text) for each phrase that a line has outside quotes, and for all at once."""
    all_at_once = text
    for pattern, replacement, says in _PHRASES:
        mended = _outside(pattern, replacement, text)
        all_at_once = _outside(pattern, replacement, all_at_once)
        if mended != text:
            yield says, mended
            bare = re.fullmatch(r"((?:off\s+)?save\s+)([^\s'\"]+)(.*)", mended, re.IGNORECASE | re.DOTALL)
            if bare is not None:
                yield says, f"{bare[1]}'{bare[2]}'{bare[3]}"
    if all_at_once != text:
        yield "this is how it is written here", all_at_once
    joined = _CONCAT.sub(lambda found: "(" + " || ".join(part.strip() for part in found[1].split(",")) + ")", text)
    if joined != text:
        yield "texts are joined by ||", joined
    listed = _BARE_LIST.sub(lambda found: "IN (" + re.sub(_WORD, r"'\g<0>'", found[1]) + ")", text)
    if listed != text:
        yield "the values of a list stand in brackets, texts in quotes", listed


def _outside(pattern: str, replacement: str, text: str) -> str:
    compiled = re.compile(pattern, re.IGNORECASE)
    pieces, last = [], 0
    quoted = [found.span() for found in re.finditer(QUOTED, text)]
    for found in compiled.finditer(text):
        if any(start <= found.start() < end for start, end in quoted):
            continue
        pieces += [text[last : found.start()], found.expand(replacement)]
        last = found.end()
    return "".join([*pieces, text[last:]])
