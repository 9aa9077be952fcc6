"""Yard Cut: cut slices out of large tables, in the terminal, from the command line, and from Python.

>>> import yardcut
>>> table = yardcut.open("yard_2031.csv")  # doctest: +SKIP
>>> cut = table.drop("bay = 'ALL BAYS'").draw("top 10 by price_per_m3 per species")  # doctest: +SKIP
"""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from yardcut.core.errors import ListError, SourceError, StoppedError, TargetError, YardcutError
    from yardcut.face.frozen_cuts import Cut
    from yardcut.face.opened_tables import Table, load
    from yardcut.face.opened_tables import open_source as open  # noqa: A004 - its own name here

__all__ = [
    "Cut", "ListError", "SourceError", "StoppedError", "Table", "TargetError", "YardcutError", "load", "open",
]  # fmt: skip

_ERRORS = frozenset({"ListError", "SourceError", "StoppedError", "TargetError", "YardcutError"})


def __getattr__(name: str) -> Any:
    """Load the face when it is first asked for: the command line does without, and starts at once."""
    if name in _ERRORS:
        from yardcut.core import errors

        return getattr(errors, name)
    if name == "Cut":
        from yardcut.face.frozen_cuts import Cut

        return Cut
    if name in ("Table", "load", "open"):
        from yardcut.face import opened_tables

        return getattr(opened_tables, "open_source" if name == "open" else name)
    raise AttributeError(f"module 'yardcut' has no attribute {name!r}")
