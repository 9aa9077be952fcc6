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


def paths_like(text: str, base: Path = Path()) -> list[str]:
    """Return the paths a text is the beginning of, directories with a slash behind; relative ones are to ``base``."""
    try:
        path = path_of(text)
        folder, begun = (path, "") if text.endswith("/") or not text else (path.parent, path.name)
        found = sorted(entry.name for entry in (base / folder).iterdir() if entry.name.startswith(begun))
    except (OSError, YardcutError):
        return []
    shown = [name for name in found if begun or not name.startswith(".")]
    return [f"{folder / name}/" if (base / folder / name).is_dir() else str(folder / name) for name in shown]
