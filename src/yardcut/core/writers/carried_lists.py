"""The list that a slice remembers in its own metadata: what cuts it again."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.errors import Mend, SourceError
from yardcut.core.formats import FORMATS, format_of, function

_HEAD_BYTES = 64


def carries(path: Path) -> bool:
    """Tell whether a file is of a format in which a slice can remember its list."""
    try:
        with open(path, "rb") as file:
            return bool(format_of(file.read(_HEAD_BYTES)).carried)
    except OSError:
        return False


def carried_list(path: Path) -> str:
    """Return the text of the list a slice remembers. Raises ``SourceError`` where it has none, or cannot be read."""
    try:
        with open(path, "rb") as file:
            form = format_of(file.read(_HEAD_BYTES))
        text = function(form.carried)(path) if form.carried else None
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror or error}") from error
    except Exception as error:  # each reader of a format has errors of its own
        raise SourceError(f"{path} is no whole {form.name} file: {error}") from error
    if text is None:
        named = ", ".join(each.name for each in FORMATS.values() if each.carried)
        raise SourceError(f"{path} remembers no list", mend=Mend(f"slices that Yard Cut wrote as {named} do"))
    return str(text)
