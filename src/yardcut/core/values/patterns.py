"""Regular expressions as re2 understands them, which cannot take exponential time."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

MOST_CHARACTERS = 2_000
"""Of a regular expression: time grows with its length times that of the text."""


class PatternError(ValueError):
    """A regular expression is wrong; its text says how."""


def checked(source: str) -> Any:
    """Compile a regular expression somebody wrote. Raises ``PatternError``."""
    if len(source) > MOST_CHARACTERS:
        raise PatternError(f"it has {len(source):,} characters, and {MOST_CHARACTERS:,} are the most")
    return compiled(source)


@lru_cache(maxsize=256)
def compiled(source: str) -> Any:
    """Compile a regular expression for UTF-8 bytes, without the library's own messages on the terminal.

    Raises ``PatternError``.
    """
    import re2

    options = re2.Options()
    options.log_errors = False
    try:
        return re2.compile(source.encode(), options)
    except UnicodeEncodeError:
        raise PatternError("it holds half a character") from None
    except re2.error as error:
        said = error.args[0] if error.args else ""
        raise PatternError(said.decode("utf-8", "replace") if isinstance(said, bytes) else str(said)) from None
