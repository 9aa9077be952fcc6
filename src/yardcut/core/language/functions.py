"""The functions of the language: names, kinds in and out, form and example. Their kernels stand in ``expressions``."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from yardcut.core.errors import ListError, NotYetError
from yardcut.core.values.kinds import Kind

Kinds = tuple[Kind, ...]


@dataclass(frozen=True, slots=True)
class Signature:
    """One function.

    ``takes`` names its arguments; ``result`` gives the kind of the result for the kinds of the arguments, or ``None``
    when it does not take those. ``does`` and ``example`` are for help and docs.
    """

    name: str
    takes: tuple[str, ...]
    result: Callable[[Kinds], Kind | None]
    does: str
    example: str

    @property
    def form(self) -> str:
        """How it is written."""
        return f"{self.name}({', '.join(self.takes)})"


def _number(kinds: Kinds) -> Kind | None:
    """Return the kind of the only argument, a number of either kind."""
    return kinds[0] if kinds[0].is_numeric else None


FUNCTIONS: dict[str, Signature] = {
    signature.name: signature
    for signature in (
        Signature("ABS", ("number",), _number, "the number without its sign", "ABS(price_per_m3 - list_price) > 100"),
    )
}

LATER_FUNCTIONS = frozenset(
    (
        "UPPER", "LOWER", "TRIM", "CHAR_LENGTH", "SUBSTRING", "POSITION", "MOD", "CEILING", "FLOOR", "ROUND", "SQRT",
        "POWER", "EXP", "LN", "LOG10", "EXTRACT", "DATE_FROM", "CAST", "COALESCE", "NULLIF", "GREATEST", "LEAST", "AVG",
        "MIN", "MAX", "SUM", "COUNT", "QUANTILE", "REPEATED",
    )
)  # fmt: skip
"""Functions of the language that this version does not have yet."""


def unknown_function(name: str, start: int) -> ListError:
    """Return the error for a function that is not there, at its place in a line."""
    end = start + len(name)
    if name.upper() in LATER_FUNCTIONS:
        return NotYetError(f"this version does not have the function {name.upper()} yet", start=start, end=end)
    return ListError(f"there is no function {name.upper()}", start=start, end=end)
