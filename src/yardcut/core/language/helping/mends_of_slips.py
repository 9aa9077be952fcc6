"""Slips of other habits, and the text they likely meant. Every candidate is tried; the first that parses is offered."""

from __future__ import annotations

import re
from collections.abc import Iterator

QUOTED = r"(?:'(?:[^'\n]|'')*'|\"(?:[^\"\n]|\"\")*\")"

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


def outside(pattern: str, replacement: str, text: str) -> str:
    """Replace a pattern wherever it stands outside quotes."""

    def put(match: re.Match[str]) -> str:
        return match.group(0) if match.group(0)[0] in "'\"" and match.group(0) != replacement else replacement

    return re.sub(f"{QUOTED}|{pattern}", put, text)


def candidates(text: str, start: int) -> Iterator[tuple[str, str]]:
    """Yield (what is meant, corrected text) for slips of one meaning only; ``start`` says where the error stands."""
    curly = re.sub("[“”„‟]([^“”„‟\n]*)[“”„‟]", r"'\1'", text)
    curly = re.sub("[‘’‚‛]([^‘’‚‛\n]*)[‘’‚‛]", r"'\1'", curly)
    if curly != text:
        yield "texts stand in straight single quotes", curly
    all_at_once = curly
    for pattern, replacement, says in _REPLACEMENTS:
        mended = outside(pattern, replacement, text)
        if mended != text:
            yield says, mended
        all_at_once = outside(pattern, replacement, all_at_once)
    if all_at_once != text:
        yield "this is how it is written here", all_at_once
    missing = text.count("(") - text.count(")")
    if missing > 0:
        yield "a bracket is closed", text.rstrip() + ")" * missing
    bare = re.fullmatch(r"((?:off\s+)?save\s+)([^\s'\"]+)(.*)", text, re.IGNORECASE | re.DOTALL)
    if bare is not None:
        yield "a file name stands in quotes", f"{bare[1]}'{bare[2]}'{bare[3]}"
    if text.startswith("--", start):
        yield "two minus signs need a blank between them", f"{text[:start]}- -{text[start + 2 :]}"


def fix_in_place(text: str, start: int, end: int, replacement: str) -> str:
    """Return the text with one stretch replaced."""
    return text[:start] + replacement + text[end:]
