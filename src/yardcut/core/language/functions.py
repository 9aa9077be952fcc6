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
    when it does not take those. ``does`` and ``example`` are for help and docs. The last ``optional`` arguments may be
    left out; with ``repeats`` there may be more like the last one.
    """

    name: str
    takes: tuple[str, ...]
    result: Callable[[Kinds], Kind | None]
    does: str
    example: str
    optional: int = 0
    repeats: bool = False

    @property
    def form(self) -> str:
        """How it is written."""
        needed = len(self.takes) - self.optional
        said = ", ".join(self.takes[:needed]) + "".join(f"[, {name}]" for name in self.takes[needed:])
        return f"{self.name}({said}{', …' if self.repeats else ''})"

    def result_of(self, kinds: Kinds) -> Kind | None:
        """Return the kind of the result for arguments of some kinds, or ``None`` when it does not take those."""
        fewest = len(self.takes) - self.optional
        if len(kinds) < fewest or (len(kinds) > len(self.takes) and not self.repeats):
            return None
        return self.result(kinds)


def _number(kinds: Kinds) -> Kind | None:
    """Return the kind of the only argument, a number of either kind."""
    return kinds[0] if kinds[0].is_numeric else None


def _root(kinds: Kinds) -> Kind | None:
    return Kind.NUMBER if kinds[0].is_numeric else None


def _wider(kinds: Kinds) -> Kind | None:
    """Return integer where all are, number where one is and all are numbers."""
    if not all(kind.is_numeric for kind in kinds):
        return None
    return Kind.INTEGER if set(kinds) == {Kind.INTEGER} else Kind.NUMBER


def _rounded(kinds: Kinds) -> Kind | None:
    return _number(kinds) if kinds[1:] in ((), (Kind.INTEGER,)) else None


def _extreme(kinds: Kinds) -> Kind | None:
    if len(set(kinds)) == 1 and kinds[0] not in (Kind.TEXT, Kind.BOOLEAN):
        return kinds[0]
    return _wider(kinds)


FUNCTIONS: dict[str, Signature] = {
    signature.name: signature
    for signature in (
        Signature("CEILING", ("number",), _number, "the next whole number above", "CEILING(volume_m3)"),
        Signature("FLOOR", ("number",), _number, "the next whole number below", "FLOOR(volume_m3)"),
        Signature(
            "ROUND",
            ("number", "digits"),
            _rounded,
            "the number rounded, halves away from zero; whole, or to digits behind the point",
            "ROUND(price_per_m3 * volume_m3, 2)",
            optional=1,
        ),
        Signature("MOD", ("number", "divisor"), _wider, "the remainder, with the number's sign", "MOD(boards, 12) = 0"),
        Signature("SQRT", ("number",), _root, "the square root; none below zero", "SQRT(length_mm)"),
        Signature(
            "GREATEST",
            ("value", "value"),
            _extreme,
            "the largest of the row's values; none if one is missing",
            "GREATEST(moisture_d01, moisture_d02) > 60",
            repeats=True,
        ),
        Signature(
            "LEAST",
            ("value", "value"),
            _extreme,
            "the smallest of the row's values; none if one is missing",
            "LEAST(moisture_d01, moisture_d02) < 10",
            repeats=True,
        ),
        Signature("ABS", ("number",), _number, "the number without its sign", "ABS(price_per_m3 - list_price) > 100"),
    )
}

LATER_FUNCTIONS = frozenset(
    (
        "UPPER", "LOWER", "TRIM", "CHAR_LENGTH", "SUBSTRING", "POSITION", "POWER", "EXP", "LN", "LOG10",
        "EXTRACT", "DATE_FROM", "CAST", "COALESCE", "NULLIF", "AVG",
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
