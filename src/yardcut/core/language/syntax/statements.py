"""Cutting a text into statements by the layout rule, keeping every byte.

A statement starts with its first word and goes on over each following line that is indented deeper than that word
or begins with a closing bracket. Blank and comment lines end nothing. ``cut`` and ``source`` open blocks: the deeper
lines below them are statements of their own, except that a deeper line below ``source`` that begins with a quote
continues its list of files.
"""

from __future__ import annotations

import re

from yardcut.core.quick_dataclasses import dataclass

_TAB_STOP = 8
_BLOCK_WORDS = ("cut", "source")


@dataclass(frozen=True, slots=True)
class RawStatement:
    """One statement as it stands in a text.

    ``leading`` holds the blank and comment lines above it, ``text`` the statement from its first word to the end of
    its last line without the line end, ``ending`` that line end. ``line`` and ``column`` (from 1) place its start.
    """

    leading: str
    indent: str
    text: str
    ending: str
    line: int
    column: int

    @property
    def first_word(self) -> str:
        """The statement's first word in lower case."""
        return first_word(self.text)

    @property
    def raw(self) -> str:
        """The statement's own bytes, with all that stands above it."""
        return self.leading + self.indent + self.text + self.ending


def first_word(text: str) -> str:
    """Return the first word of a text in lower case."""
    parts = text.split(None, 1)
    return parts[0].lower() if parts else ""


def _depth(indent: str) -> int:
    depth = 0
    for char in indent:
        depth = depth + _TAB_STOP - depth % _TAB_STOP if char == "\t" else depth + 1
    return depth


def _is_blank(content: str) -> bool:
    return not content or content == "--" or content.startswith(("-- ", "--\t"))


@dataclass(slots=True)
class _Open:
    """The statement being gathered."""

    leading: str
    indent: str
    depth: int
    lines: list[str]
    line: int


def split_statements(text: str) -> tuple[list[RawStatement], str]:
    """Return the statements of a text and what stands below the last one.

    Joining every statement's ``raw`` and the rest gives the text again, byte for byte.
    """
    found: list[RawStatement] = []
    pending: list[str] = []
    current: _Open | None = None

    def close() -> None:
        nonlocal current
        if current is None:
            return
        whole = "".join(current.lines)
        body = whole.rstrip("\r\n")
        found.append(
            RawStatement(
                current.leading, current.indent, body, whole[len(body) :], current.line, len(current.indent) + 1
            )
        )
        current = None

    for number, line in enumerate(_lines(text), 1):
        content = line.strip()
        if _is_blank(content):
            pending.append(line)
            continue
        stripped = line.lstrip(" \t")
        indent = line[: len(line) - len(stripped)]
        depth = _depth(indent)
        if current is not None and _continues(current, content, depth):
            current.lines += [*pending, line]
            pending = []
            continue
        close()
        current = _Open("".join(pending), indent, depth, [stripped], number)
        pending = []
    close()
    return found, "".join(pending)


def _continues(current: _Open, content: str, depth: int) -> bool:
    if content[0] in ")]}":
        return True
    if depth <= current.depth:
        return False
    word = first_word(current.lines[0])
    if word == "source":
        return content[0] in "'\""
    return word not in _BLOCK_WORDS


def _lines(text: str) -> list[str]:
    """Split at line feeds only: other characters that some call line ends may stand in a text."""
    parts = text.split("\n")
    return [part + "\n" for part in parts[:-1]] + ([parts[-1]] if parts[-1] else [])


_QUOTED_OR_COMMENT = re.compile(r"""'(?:[^'\n]|'')*'|"(?:[^"\n]|"")*"|(?<!\S)--(?=\s|\Z)[^\n]*""")


def comment_of(text: str) -> str:
    """Return the comment that a statement ends with, and the blank before it; "" for none."""
    last = text.rsplit("\n", 1)[-1]
    found = [match for match in _QUOTED_OR_COMMENT.finditer(last) if match.group(0)[0] == "-"]
    return f" {found[-1].group(0)}" if found else ""


def without_comments(text: str) -> str:
    """Return a statement without its comments."""
    return _QUOTED_OR_COMMENT.sub(lambda found: "" if found.group(0)[0] == "-" else found.group(0), text)
