"""The entries of the settings file: the one table that the file, the environment, the docs and the command read."""

from __future__ import annotations

import os
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from platformdirs import user_cache_path

from yardcut.core.quick_dataclasses import dataclass

_UNITS = {"": 1, "B": 1, "KB": 10**3, "MB": 10**6, "GB": 10**9, "TB": 10**12,
          "KIB": 1 << 10, "MIB": 1 << 20, "GIB": 1 << 30, "TIB": 1 << 40}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Entry:
    """One entry: its section and name, what it is for, an example, its default, and how a value is read.

    ``default`` is called when it is needed. ``read`` takes what TOML or the environment holds (there a text) and
    raises ``ValueError`` with a sentence that says what it takes.
    """

    section: str
    name: str
    meaning: str
    example: str
    default: Callable[[], Any]
    read: Callable[[Any], Any]
    shown: Callable[[Any], str] = str

    @property
    def id(self) -> str:
        """Its name with its section."""
        return f"{self.section}.{self.name}"

    @property
    def variable(self) -> str:
        """The environment variable that overrides it."""
        return f"YARDCUT_{self.section}_{self.name}".upper()


def read_bytes(value: Any) -> int:
    """Read an amount of bytes: a number, or a text such as ``20 GiB``. Raises ``ValueError``."""
    found = re.fullmatch(r"\s*(\d+(?:\.\d+)?)\s*([A-Za-z]*)\s*", str(value))
    if isinstance(value, bool) or found is None or found[2].upper() not in _UNITS:
        raise ValueError('it takes an amount such as "20 GiB" or "500 MB"')
    return int(float(found[1]) * _UNITS[found[2].upper()])


def shown_bytes(value: int) -> str:
    """Write an amount of bytes in the largest unit that leaves it whole."""
    for unit in ("TiB", "GiB", "MiB", "TB", "GB", "MB", "KiB", "KB"):
        if value and value % _UNITS[unit.upper()] == 0:
            return f"{value // _UNITS[unit.upper()]} {unit}"
    return f"{value} B"


def read_count(value: Any) -> int:
    """Read a whole number from 1 on. Raises ``ValueError``."""
    if isinstance(value, bool) or not re.fullmatch(r"\s*\d+\s*", str(value)) or int(value) < 1:
        raise ValueError("it takes a whole number, 1 or more")
    return int(value)


def read_folder(value: Any) -> Path:
    """Read the path of a directory; ``~`` is the home directory. Raises ``ValueError``."""
    if not isinstance(value, str) or not value.strip() or not Path(value).expanduser().is_absolute():
        raise ValueError("it takes the whole path of a directory")
    return Path(value).expanduser()


def read_name(value: Any) -> str:
    """Read a name. Raises ``ValueError``."""
    if not isinstance(value, str) or not value.strip():
        raise ValueError("it takes a name in quotes")
    return value.strip()


def _one_of(*marks: str) -> Callable[[Any], str]:
    def read(value: Any) -> str:
        if value not in marks:
            raise ValueError(f"it takes one of {', '.join(map(repr, marks))}")
        return str(value)

    return read


ENTRIES = (
    Entry("screen", "theme", "the colours the app starts with; the key of light and dark changes them for a while",
          '"yard-light"', lambda: "yard-dark", read_name),
    Entry("screen", "decimal_mark", "before decimals in table and gauge; files, copied cells and lines keep the point",
          '","', lambda: ".", _one_of(".", ","), repr),
    Entry("screen", "thousands_mark", "between thousands in table and gauge, for the eye only; empty for none",
          '" "', lambda: "", _one_of("", ",", ".", " ", "'", "\u2009"), repr),
    Entry("cache", "folder", "where tables are kept once they were read",
          '"/scratch/yardcut"', lambda: user_cache_path("yardcut"), read_folder),
    Entry("cache", "bytes", "how much the kept tables may take together; those longest unused go first",
          '"50 GiB"', lambda: 20 << 30, read_bytes, shown_bytes),
    Entry("sort", "bytes", "how much memory a sort may take before it goes by way of the disk",
          '"4 GB"', lambda: 1_000_000_000, read_bytes, shown_bytes),
    Entry("work", "threads", "how many threads go over the rows at once",
          "2", lambda: max(1, min(8, os.cpu_count() or 1)), read_count),
)  # fmt: skip
