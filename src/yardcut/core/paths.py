"""From a text that somebody wrote to a path that the system will look at."""

from __future__ import annotations

import os
from pathlib import Path

from yardcut.core.errors import Mend, YardcutError

_MOST_NAME_BYTES, _MOST_PATH_BYTES = 255, 4095
"""NAME_MAX and PATH_MAX of Linux, without the closing zero."""


def path_of(text: str, error: type[YardcutError] = YardcutError) -> Path:
    """Return the path a text names, homes (``~``, ``~name``) put in. Raises ``error`` where it names none."""
    if "\0" in text:
        raise error("a path holds no zero byte")
    try:
        path = Path(text).expanduser()
        written = os.fsencode(path)
    except RuntimeError:
        user = text.split("/", 1)[0]
        raise error(
            f"{user} is the home of nobody here", mend=Mend(f"write ./{text} for a file of that name")
        ) from None
    except UnicodeEncodeError:
        raise error("a path holds no lone surrogate") from None
    if len(written) > _MOST_PATH_BYTES or any(len(name) > _MOST_NAME_BYTES for name in written.split(b"/")):
        raise error(f"no file has a name this long: {text[:40]}…")
    return path
