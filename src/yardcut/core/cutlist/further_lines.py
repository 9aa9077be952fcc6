"""Further sources as somebody writes them: a source line with a name, and the sub-lines below it."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace

from yardcut.core.cutlist.model import FurtherSource
from yardcut.core.errors import ListError, Mend, Place
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.syntax.printing import PLAIN_NAME
from yardcut.core.language.syntax.source_lines import FURTHER, FURTHER_EXAMPLE, parse_sub_line
from yardcut.core.language.syntax.source_lines import WORDS as SUB_LINE_WORDS
from yardcut.core.language.syntax.statements import RawStatement, split_statements, without_comments
from yardcut.core.sources.elsewhere.addresses import without_secret
from yardcut.core.sources.spec import SubLine

QUOTED = re.compile(r"""(?:U&)?(?:'(?:[^'\n]|'')*'|"(?:[^"\n]|"")*")""", re.IGNORECASE)
"""A file name in a source line."""


def is_source_line(text: str) -> bool:
    """Tell whether a text being written is a further source rather than a line of a cut."""
    words = text.split(None, 1)
    return bool(words) and words[0].lower() == FURTHER


def read_source(raw: RawStatement, place: Place) -> tuple[tuple[str, ...], str]:
    """Return the files of a source line, and its name where it has one. Raises ``ListError``."""
    text = without_comments(raw.text)
    files = tuple(without_secret(unquoted(found, place)) for found in QUOTED.findall(text))
    if not files:
        raise ListError("source takes a file name in quotes", place=place)
    words = " ".join(QUOTED.sub("", text).split(None, 1)[1:]).replace(",", " ").split()
    if not words:
        return files, ""
    if len(words) != 2 or words[0].upper() != "AS" or not PLAIN_NAME.match(words[1]):
        said = " ".join(words)
        raise ListError(f"behind the files of a source stands AS and a plain word, not {said}", place=place)
    return files, words[1]


def unquoted(written: str, place: Place) -> str:
    """Return the text between quotes. Raises ``ListError`` at a place."""
    try:
        return unquote(written)
    except ListError as error:
        raise error.placed(place) from None


def read_further(text: str) -> FurtherSource:
    """Return the one further source that a text writes. Raises ``ListError``."""
    own, further = of_sources(split_statements(text)[0])
    if own or len(further) != 1:
        raise ListError("one further source is written at a time", mend=Mend(FURTHER_EXAMPLE))
    return further[0]


def of_sources(statements: Iterable[RawStatement]) -> tuple[tuple[SubLine, ...], tuple[FurtherSource, ...]]:
    """Return the sub-lines of the first source, and the further ones, each with the sub-lines behind it.

    Statements of other words are passed over. Raises ``ListError``.
    """
    own: list[SubLine] = []
    further: list[FurtherSource] = []
    for raw in statements:
        if raw.first_word == FURTHER:
            files, name = read_source(raw, Place(raw.line, raw.column))
            if not name:
                raise ListError("a further source has a name", mend=Mend(f"write: {FURTHER_EXAMPLE}"))
            further.append(FurtherSource(name, files))
        elif raw.first_word in SUB_LINE_WORDS and further:
            last = further.pop()
            further.append(replace(last, lines=(*last.lines, parse_sub_line(raw.text))))
        elif raw.first_word in SUB_LINE_WORDS:
            own.append(parse_sub_line(raw.text))
    return tuple(own), tuple(further)
