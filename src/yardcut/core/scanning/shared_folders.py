"""A folder that other processes are asked to write into, and how they tell that it is the one that was meant."""

from __future__ import annotations

import secrets
from pathlib import Path

from yardcut.core.private import write_private
from yardcut.core.quick_dataclasses import dataclass

_MARK_NAME = "mark"


@dataclass(frozen=True, slots=True)
class SharedFolder:
    """Where something is written, and what the mark in it says: another machine may have a folder of this name too."""

    path: str
    mark: str

    @classmethod
    def marked(cls, folder: Path) -> SharedFolder:
        """Put a mark into a folder of one's own. Raises ``OSError``."""
        mark = secrets.token_hex(16)
        write_private(folder / _MARK_NAME, mark.encode("ascii"))
        return cls(str(folder.resolve()), mark)

    def is_seen(self) -> bool:
        """Tell whether this process sees it."""
        try:
            return (Path(self.path) / _MARK_NAME).read_text("ascii") == self.mark
        except OSError:
            return False

    def file(self, number: int) -> Path:
        """Return the file of a part, by its number."""
        return Path(self.path) / f"{number:06}"

    def new_file(self, number: int) -> Path:
        """Return a name beside it that nobody else has, to be moved to it when it is whole."""
        return Path(self.path) / f"{number:06}-{secrets.token_hex(8)}"
