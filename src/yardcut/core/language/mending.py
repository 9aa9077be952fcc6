"""Slips of other habits, and the text they likely meant. Every candidate is tried; the first that parses is offered."""

from __future__ import annotations

import re
from collections.abc import Iterator

_OUTSIDE_QUOTES = r"(?:'(?:[^'\n]|'')*'|\"(?:[^\"\n]|\"\")*\")"

_REPLACEMENTS: tuple[tuple[str, str, str], ...] = (
    (r"==", "=", "one = compares here"),
    (r"\s*&&\s*", " AND ", "AND joins conditions here"),
    (r"\s*\|\|\s*", " OR ", "OR joins conditions here"),
    (r"≥", ">=", "at least is written >="),
    (r"≤", "<=", "at most is written <="),
    (r"≠", "<>", "unlike is written <>"),
    (r"=>", ">=", "at least is written >="),
    (r"=<", "<=", "at most is written <="),
    (r"(?<![<>=!])!(?!=)", " NOT ", "NOT is a word here"),
    (r";\s*$", "", "a line ends without a semicolon"),
)


def _outside(pattern: str, replacement: str, text: str) -> str:
    """Replace a pattern wherever it stands outside quotes."""

    def put(match: re.Match[str]) -> str:
        return match.group(0) if match.group(0)[0] in "'\"" and match.group(0) != replacement else replacement

    return re.sub(f"{_OUTSIDE_QUOTES}|{pattern}", put, text)


def candidates(text: str, start: int, end: int) -> Iterator[tuple[str, str]]:
    """Yield (what is meant, corrected text), the likeliest first; ``start`` and ``end`` say where the error stands."""
    curly = re.sub("[“”„‟]([^“”„‟\n]*)[“”„‟]", r"'\1'", text)
    curly = re.sub("[‘’‚‛]([^‘’‚‛\n]*)[‘’‚‛]", r"'\1'", curly)
    if curly != text:
        yield "texts stand in straight single quotes", curly
    all_at_once = curly
    for pattern, replacement, says in _REPLACEMENTS:
        mended = _outside(pattern, replacement, text)
        if mended != text:
            yield says, mended
        all_at_once = _outside(pattern, replacement, all_at_once)
    if all_at_once != text:
        yield "this is how it is written here", all_at_once
    missing = text.count("(") - text.count(")")
    if missing > 0:
        yield "a bracket is closed", text.rstrip() + ")" * missing
    if text.startswith("--", start):
        yield "two minus signs need a blank between them", f"{text[:start]}- -{text[start + 2 :]}"
        return
    if start and start < len(text):
        yield "AND joins conditions", f"{text[:start].rstrip()} AND {text[start:].lstrip()}"
        yield "a comma stands between", f"{text[:start].rstrip()}, {text[start:].lstrip()}"
        yield "without it", text[:start].rstrip() + text[end:]
    word = re.search(r"[^\s()]+$", text)
    if word and "'" not in word.group(0):
        yield "texts stand in single quotes", f"{text[: word.start()]}'{word.group(0)}'"


def fix_in_place(text: str, start: int, end: int, replacement: str) -> str:
    """Return the text with one stretch replaced."""
    return text[:start] + replacement + text[end:]
