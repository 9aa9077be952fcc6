"""Notes on the lines of a list, and the question above a cut: the comments above them, edited as one text."""

from __future__ import annotations

import re
import textwrap
from dataclasses import replace

from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.language.syntax.statements import comment_of
from yardcut.core.values.formatting import quote_name

_WIDTH = 96
_COMMENT = re.compile(r"\s*--(?:\s+|\Z)")


def note_of(line: Line) -> str:
    """Return the note on a line: the comments above it, or else the one behind it; "" for none."""
    return _text_of(line.leading) or comment_of(line.text).strip().removeprefix("--").strip()


def question_of(cut: Cut) -> str:
    """Return what stands above a cut; "" for nothing."""
    return _text_of(_above(cut.head))


def with_note(line: Line, note: str) -> Line:
    """Return a line with another note above it, on as many lines as it needs; "" takes it away."""
    return replace(line, leading=_leading(line.leading, note, line.indent))


def with_question(cut: Cut, question: str) -> Cut:
    """Return a cut with another text above it; a cut without a name gets one, which its head needs."""
    name = cut.name or "slice"
    head = cut.head or f"\ncut {quote_name(name)}\n"
    above = _above(head)
    return replace(cut, name=name, head=_leading(above, question, "") + head[len(above) :])


def _above(head: str) -> str:
    """Return the blank and comment lines a head begins with."""
    lines = head.splitlines(keepends=True)
    count = next((place for place, line in enumerate(lines) if line.strip() and not _COMMENT.match(line)), len(lines))
    return "".join(lines[:count])


def _text_of(leading: str) -> str:
    texts = [_COMMENT.sub("", line, count=1).strip() for line in leading.splitlines() if _COMMENT.match(line)]
    return " ".join(filter(None, texts))


def _leading(leading: str, note: str, indent: str) -> str:
    """Return the lines above something with other comments; blank lines above these stay."""
    blank = "".join(line for line in leading.splitlines(keepends=True) if not line.strip())
    words = " ".join("".join(char if char.isprintable() else " " for char in note).split())
    lines = textwrap.wrap(words, _WIDTH, break_long_words=False, break_on_hyphens=False) if words else []
    return blank + "".join(f"{indent}-- {line}\n" for line in lines)
