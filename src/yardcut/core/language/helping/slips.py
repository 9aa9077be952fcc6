"""Slips of other habits: each has its sentence, and a mend where it is clear what was meant."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence

from lark import Token

from yardcut.core.language.helping.mends_of_slips import outside
from yardcut.core.quick_dataclasses import dataclass

Mended = str | None


@dataclass(frozen=True, slots=True)
class Slip:
    """What went wrong, where (offsets), and the text put right where that is clear."""

    message: str
    start: int
    end: int
    mended: Mended = None


def _quoted(file: str) -> str:
    return f'"{file.strip(chr(34) + chr(39))}"'


# slips with verbs: seen at a line's beginning

_OFF = r"(?P<off>off\s+)?"
_NAME = r"(?:\"[^\"]*\"|/[^/]*/|[^\s,()'=<>!-][^\s,()'=<>]*)"
_NAMES = rf"{_NAME}(?:\s*,\s*{_NAME})*"
_FUNCTIONS = {
    "sum": "SUM", "total": "SUM", "average": "AVG", "avg": "AVG", "mean": "AVG", "median": "MEDIAN", "count": "COUNT",
    "max": "MAX", "maximum": "MAX", "largest": "MAX", "min": "MIN", "minimum": "MIN", "smallest": "MIN",
}  # fmt: skip
_PUT_TOGETHER = "|".join(_FUNCTIONS)
_WITHOUT = "columns are left out by without: columns all without moisture_*"
_FILE = r"(?P<file>\"[^\"]+\"|'[^']+'|[^\s'\",()]+)"
_JOINING = r"(?:(?:left|right|inner|outer|full)\s+)*(?:join|merge|lookup|look\s+up|match|attach|enrich|combine)"
_BEGINNINGS: tuple[tuple[str, str, Callable[[re.Match[str]], Mended]], ...] = (
    (r"(?P<word>order|sort)\s+by\s+(?P<rest>.+)", "the verb is order, without by", lambda m: f"order {m['rest']}"),
    (r"(?P<word>sort)\s+(?P<rest>.+)", "rows are put in order by order", lambda m: f"order {m['rest']}"),
    (r"(?P<word>where|filter|having|find)\s+(?P<rest>.+)", "rows are kept by keep, and removed by drop",
     lambda m: f"keep {m['rest']}"),
    (rf"(?P<word>drop|delete|remove|exclude|hide|omit)\s+columns?\s+\(?(?P<rest>{_NAMES})\)?", _WITHOUT,
     lambda m: f"columns all without {m['rest']}"),
    (rf"(?P<word>hide|omit)\s+\(?(?P<rest>{_NAMES})\)?", _WITHOUT, lambda m: f"columns all without {m['rest']}"),
    (rf"(?P<word>distinct|unique|dedupe|deduplicate|(?:drop|remove)\s+(?:duplicates?|repeats?))\s+(?:by\s+|of\s+|on\s+)?"
     rf"\(?(?P<rest>{_NAMES})\)?", "one row of each is taken by draw first 1 per",
     lambda m: f"draw first 1 per {m['rest']}"),
    (r"(?P<word>distinct|unique|dedupe|deduplicate|(?:drop|remove)\s+duplicates)(?P<rest>)",
     "one row of each is taken by draw first 1 per, and the columns that tell them apart: draw first 1 per ticket",
     lambda m: None),
    (r"(?P<word>export|write|output)\s+(?:to\s+|as\s+)?(?P<rest>.+)", "a slice is written by save",
     lambda m: f"save {m['rest']}"),
    (rf"(?P<word>keep|show|only)\s+columns?\s+\(?(?P<rest>{_NAMES})\)?", "columns are chosen by columns",
     lambda m: f"columns {m['rest']}"),
    (r"(?P<word>delete|remove|exclude)\s+(?:where\s+)?(?P<rest>.+)", "rows are removed by drop",
     lambda m: f"drop {m['rest']}"),
    (r"(?P<word>limit|head|take)\s+(?P<rest>\d+)", "the first rows are taken by draw first",
     lambda m: f"draw first {m['rest']}"),
    (r"(?P<word>tail)\s+(?P<rest>\d+)", "the last rows are taken by draw last", lambda m: f"draw last {m['rest']}"),
    (r"(?P<word>sample)\s+(?P<rest>\d+(?:\s*%|\s+percent)?)", "rows are sampled by draw random",
     lambda m: f"draw random {m['rest']}"),
    (r"(?P<word>first|last)\s+(?P<rest>\d+(?:\s.*)?)", "draw takes rows: draw first 10, draw last 10",
     lambda m: f"draw {m['word'].lower()} {m['rest']}"),
    (r"(?P<word>top|bottom)\s+(?P<rest>\d+(?:\s+percent)?\s+by\s.+)", "draw takes rows: draw top 10 by price_per_m3",
     lambda m: f"draw {m['word'].lower()} {m['rest']}"),
    (r"(?P<word>top|bottom)\b(?P<rest>.*)",
     "draw takes the top by a value, draw top 10 by price_per_m3, or the first rows as they stand, draw first 10",
     lambda m: None),
    (r"(?P<word>select)\s+\*(?P<rest>)", "columns are chosen by columns, all of them by all", lambda m: "columns all"),
    (r"(?P<word>select)\s+(?P<rest>.+)", "columns are chosen by columns", lambda m: f"columns {m['rest']}"),
    (r"(?P<word>rename)\s+(?P<rest>.*)", "columns are renamed where they are chosen: columns species AS wood, all",
     lambda m: None),
    (rf"(?P<word>group|count)\s+(?:rows\s+)?(?:by|per|for\s+each)\s+(?P<rest>{_NAMES})",
     "rows are put together by tally, per group", lambda m: f"tally COUNT(*) per {m['rest']}"),
    (rf"(?P<word>{_PUT_TOGETHER})(?:\s+of)?\s*\(?\s*(?P<what>{_NAME}|\*)\s*\)?\s+(?:by|per|for\s+each|group(?:ed)?\s+by)"
     rf"\s+(?P<rest>{_NAMES})", "rows are put together by tally, per group",
     lambda m: f"tally {_FUNCTIONS[m['word'].lower()]}({m['what']}) per {m['rest']}"),
    (rf"make\s+(?P<name>{_NAME})\s*=\s*(?P<word>{_PUT_TOGETHER})\s*\(\s*(?P<what>{_NAME}|\*)\s*\)\s+(?:by|for\s+each|over)"
     rf"\s+(?P<rest>{_NAME})", "a value of a row's group is named by PER",
     lambda m: f"make {m['name']} = {_FUNCTIONS[m['word'].lower()]}({m['what']}) PER {m['rest']}"),
    (rf"(?P<word>{_JOINING})\s+(?:with\s+|from\s+|in\s+)?{_FILE}\s+(?:on|by|using|where)\s+"
     rf"\(?(?P<rest>{_NAME}(?:\s*=\s*{_NAME})?)\)?", "columns of another table are brought by bring, by key",
     lambda m: f"bring all from {_quoted(m['file'])} by {m['rest']}"),
    (rf"(?P<word>{_JOINING})\b(?P<rest>.*)",
     'columns of another table are brought by bring: bring name from "mills.csv" by mill_id = id', lambda m: None),
    (r"(?P<word>pivot|crosstab|cross[- ]?table|summary|summari[sz]e|aggregate|group|subtotals?|totals?)\b(?P<rest>.*)",
     "rows are put together by tally: tally SUM(volume_m3) per species; along grade makes a column for each grade",
     lambda m: None),
    (r"(?P<word>add|let|set)\s+(?P<rest>.+=.+)", "columns are computed by make", lambda m: f"make {m['rest']}"),
    (r"(?P<word>[^\W\d]\w*)\s*:?=(?!=)\s*(?P<rest>.+)", "columns are computed by make",
     lambda m: f"make {m['word']} = {m['rest']}"),
)  # fmt: skip


def beginning_slip(text: str) -> Slip | None:
    """Return the slip a line begins with, if it is a known one."""
    for pattern, message, mend in _BEGINNINGS:
        found = re.fullmatch(_OFF + pattern, text.strip(), re.IGNORECASE | re.DOTALL)
        if found is not None:
            start = text.find(found["word"])
            mended = mend(found)
            return Slip(
                message, start, start + len(found["word"]), None if mended is None else (found["off"] or "") + mended
            )
    return None


# slips within a line: seen where the grammar stops

_LEAVING_OUT = re.compile(
    r"(?P<off>off\s+)?columns?\s+(?:(?:all|everything|\*)(?:\s*,|\b|(?<=\*))\s*)?"
    rf"(?P<word>[-!]|(?:except(?:\s+for)?|excluding|exclude|but(?:\s+not)?|minus|without|not)\b)\s*"
    rf"(?P<names>{_NAME}(?:\s*,\s*[-!]?\s*{_NAME})*|\(\s*{_NAMES}\s*\))",
    re.IGNORECASE,
)
_THOUSANDS = re.compile(r"(?<![\w.,'\"])\d{1,3}(?:,\d{3})+(?![\w,])")
_LOST_QUOTE = re.compile(r"'([^'\s]+)(\s+(?:AND|OR)\b)", re.IGNORECASE)
_CHAIN = re.compile(r"(?<![\w.\"])([\w.\"]+)\s*(<=?|>=?)\s*([\w.\"]+)\s*(<=?|>=?)\s*([\w.\"]+)")
_COMPARES = ("EQUALS", "COMPARE")


def inner_slip(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """Return the slip at the place where a line could not be read on, if it is a known one."""
    for look in (_left_out, _column_range, _lost_quote, _thousands, _chained, _signs, _in_a_text):
        found = look(text, start, tokens)
        if found is not None:
            return found
    return None


_IN_A_TEXT = re.compile(r"\bIN\s+(?P<text>'(?:[^'\n]|'')*')", re.IGNORECASE)
_ENDING = re.compile(r"\.\w{1,8}'\Z")


def _in_a_text(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``IN 'oak'``, ``IN 'asked.txt'``."""
    found = next((each for each in _IN_A_TEXT.finditer(text) if each.start("text") == start), None)
    if found is None:
        return None
    quoted = found["text"]
    if _ENDING.search(quoted):
        written, says = _quoted(quoted), "a file of values stands in double quotes"
    else:
        written, says = f"({quoted})", "the values of a list stand in brackets"
    return Slip(says, start, found.end(), text[:start] + written + text[found.end() :])


_RANGE_NAME = r"(?:#\d+|\"[^\"]+\"|[^\W\d]\w*)"
_COLON_RANGE = re.compile(rf"({_RANGE_NAME})\s*:\s*({_RANGE_NAME})")


def _column_range(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``columns ticket:bay``, ``columns #7..``."""
    if re.match(r"(off\s+)?columns\b", text, re.IGNORECASE) is None:
        return None
    if text[:start].rstrip().endswith("..") or (text[start:].strip() == "" and text.rstrip().endswith("..")):
        return Slip(
            "a range of columns names its last one too: #7..#12, ticket..bay, or #7..#-1", start, max(start, len(text))
        )
    for found in _COLON_RANGE.finditer(text):
        if found.start() <= start <= found.end():
            mended = _COLON_RANGE.sub(r"\1..\2", text)
            return Slip("a range of columns is written with two points: ticket..bay", *found.span(), mended)
    return None


def _left_out(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``columns -x``, ``columns all except x``."""
    found = _LEAVING_OUT.fullmatch(text.strip())
    if found is not None:
        shift = text.find(text.strip())
        names = re.sub(r"(^|,)\s*[-!]?\s*", lambda mark: mark[1] and ", ", found["names"].strip("() "))
        mended = f"{found['off'] or ''}columns all without {names}"
        return Slip(_WITHOUT, found.start("word") + shift, found.end("word") + shift, mended)
    if text[start : start + 1] != "-" or not re.match(r"(off\s+)?columns\b", text, re.IGNORECASE):
        return None
    return Slip(_WITHOUT, start, start + 1)


def _lost_quote(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``species = 'oak AND grade = 'A'``."""
    if text.count("'") % 2 == 0:
        return None
    for token in tokens:
        found = _LOST_QUOTE.match(token) if token.type == "TEXT" else None
        if found is not None and token.start_pos is not None:
            place = token.start_pos + 1 + len(found[1])
            return Slip(f"the quote behind {found[1]} is missing: {token} reads as one text", token.start_pos,
                        token.end_pos or start, f"{text[:place]}'{text[place:]}")  # fmt: skip
    return None


def _thousands(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``1,000,000``."""
    for found in _THOUSANDS.finditer(text):
        if found.start() <= start <= found.end():
            plain = found[0].replace(",", "")
            mended = text[: found.start()] + plain + text[found.end() :]
            return Slip(f"a number has no marks between its thousands: {plain}", found.start(), found.end(), mended)
    return None


def _chained(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``2 < x < 5``."""
    since = [token.type for token in tokens]
    for joint in ("_AND", "_OR", "NOT", "LPAR"):
        if joint in since:
            since = since[len(since) - since[::-1].index(joint) :]
    if text[start : start + 1] not in ("<", ">", "=", "!") or not any(kind in _COMPARES for kind in since):
        return None
    if tokens and tokens[-1].type in _COMPARES:
        return None
    mended = None
    for found in _CHAIN.finditer(text):
        if found.start() < start < found.end() and found[2][0] == found[4][0]:
            a, first, middle, second, c = found.groups()
            mended = f"{text[: found.start()]}{a} {first} {middle} AND {middle} {second} {c}{text[found.end() :]}"
    return Slip("comparisons do not chain: write both, joined by AND, or BETWEEN … AND …", start, start + 1, mended)


def _signs(text: str, start: int, tokens: Sequence[Token]) -> Slip | None:
    """``|``, ``&`` and ``~``."""
    match text[start : start + 1]:
        case "|":
            return Slip(
                "either of two conditions is written with OR", start, start + 1, outside(r"\s*\|\|?\s*", " OR ", text)
            )
        case "&":
            return Slip(
                "both of two conditions are written with AND", start, start + 1, outside(r"\s*&&?\s*", " AND ", text)
            )
        case "~":
            return Slip("a text is searched with CONTAINS 'part' or LIKE_REGEX 'pattern'", start, start + 1)
    return None
