"""What is typed where a slice goes: a path, perhaps without quotes, and behind it the words of a ``save`` line."""

from __future__ import annotations

import re

from yardcut.core.errors import ListError
from yardcut.core.language.save_options import SAVE_OPTIONS, words_pattern
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.save import Save
from yardcut.core.values.formatting import quote_name

_OTHERS = ("as", "one file per", "replace")


def _word() -> re.Pattern[str]:
    """Return what finds the first word of anything that stands behind a path."""
    words = "|".join(words_pattern(each) for each in (*_OTHERS, *(option.words for option in SAVE_OPTIONS.values())))
    return re.compile(rf"\s(?=({words})(?!\w))", re.IGNORECASE)


def parse_save_words(text: str) -> Save:
    """Read a path and options.

    A path without quotes ends where what follows can be read as options, or goes on to the end. Raises ``ListError``
    for what stands behind a path in quotes.

    >>> parse_save_words("oak woods.csv delimiter ';'").path
    'oak woods.csv'
    """
    text = text.strip()
    if text[:1] in "'\"":
        return _parsed(f"save {text}")
    for joint in _word().finditer(text):
        try:
            return _parsed(f"save {quote_name(text[: joint.start()].strip())} {text[joint.start() :].strip()}")
        except ListError:
            continue
    return Save(text)


def wrong_words(text: str) -> str:
    """Say what is wrong with words that look like options and cannot be read as such; "" where there are none."""
    joint = _word().search(text)
    if joint is None or text[:1] in "'\"" or parse_save_words(text).path != text.strip():
        return ""
    try:
        _parsed(f"save {quote_name(text[: joint.start()].strip())} {text[joint.start() :].strip()}")
    except ListError as error:
        return error.message
    return ""


def _parsed(line: str) -> Save:
    body = parse_statement(line).body
    assert isinstance(body, Save)
    return body
