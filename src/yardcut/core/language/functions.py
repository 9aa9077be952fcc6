"""The functions of the language: names, kinds in and out, form and example. Their kernels stand in ``expressions``."""

from __future__ import annotations

from collections.abc import Callable

from yardcut.core.errors import Mend, NoFunctionError
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.values.kinds import Kind

Kinds = tuple[Kind, ...]


@dataclass(frozen=True, slots=True)
class Signature:
    """One function.

    ``takes`` names its arguments; ``result`` gives the kind of the result for the kinds of the arguments, or ``None``
    when it does not take those. ``does`` and ``example`` are for help and docs. The last ``optional`` arguments may be
    left out; with ``repeats`` there may be more like the last one. ``written`` is its form where words stand in it;
    with ``over_rows`` it looks at all rows that reach the line; its last argument is then a number between 0 and 1
    where it ``takes_share``, and ``*`` stands for every row where it ``takes_rows``. What ``tallies`` puts
    the values of groups together too.
    """

    name: str
    takes: tuple[str, ...]
    result: Callable[[Kinds], Kind | None]
    does: str
    example: str
    optional: int = 0
    repeats: bool = False
    over_rows: bool = False
    takes_share: bool = False
    takes_rows: bool = False
    tallies: bool = False
    written: str = ""

    @property
    def opening(self) -> str:
        """What is written before what it takes."""
        return "COUNT(DISTINCT " if self.name == "COUNT DISTINCT" else f"{self.name}("

    @property
    def form(self) -> str:
        """How it is written."""
        if self.written:
            return self.written
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
    if len(set(kinds)) == 1 and kinds[0] is not Kind.BOOLEAN:
        return kinds[0]
    return _wider(kinds)


def _texts(*others: Kind, gives: Kind = Kind.TEXT) -> Callable[[Kinds], Kind | None]:
    """Return what checks for texts and behind them arguments of some kinds, of which the last may be left out."""

    def check(kinds: Kinds) -> Kind | None:
        return gives if kinds[0] is Kind.TEXT and all(map(lambda one, two: one is two, kinds[1:], others)) else None

    return check


def _dates(kinds: Kinds) -> Kind | None:
    return Kind.DATE if set(kinds) == {Kind.INTEGER} else None


def _anything(gives: Kind) -> Callable[[Kinds], Kind | None]:
    return lambda kinds: gives


def _quantile(kinds: Kinds) -> Kind | None:
    if kinds[0].is_numeric:
        return Kind.NUMBER
    return None if kinds[0] in (Kind.TEXT, Kind.BOOLEAN) else kinds[0]


def _powers(kinds: Kinds) -> Kind | None:
    return Kind.NUMBER if all(kind.is_numeric for kind in kinds) else None


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
        Signature("POWER", ("number", "exponent"), _powers, "the number to a power", "POWER(length_mm / 1000, 2)"),
        Signature("EXP", ("number",), _powers, "e to the power of the number", "EXP(-moisture_pct / 10)"),
        Signature("LN", ("number",), _powers, "the natural logarithm; none at and below zero", "LN(volume_m3)"),
        Signature("LOG10", ("number",), _powers, "the logarithm to the base of ten", "LOG10(price_per_m3)"),
        Signature("UPPER", ("text",), _texts(), "the text in capitals", "UPPER(grade)"),
        Signature("LOWER", ("text",), _texts(), "the text without capitals", "TRIM(LOWER(species))"),
        Signature(
            "TRIM",
            ("text",),
            _texts(),
            "the text without blanks around it, or without one character at its LEADING, TRAILING or BOTH ends",
            "TRIM(LEADING '0' FROM ticket)",
            written="TRIM([LEADING | TRAILING | BOTH] ['c' FROM] text)",
        ),
        Signature(
            "CHAR_LENGTH",
            ("text",),
            _texts(gives=Kind.INTEGER),
            "the number of characters",
            "CHAR_LENGTH(defect_note) > 40",
        ),
        Signature(
            "SUBSTRING",
            ("text", "start", "length"),
            _texts(Kind.INTEGER, Kind.INTEGER),
            "characters of the text, the first is number 1",
            "SUBSTRING(ticket FROM 1 FOR 5)",
            optional=1,
            written="SUBSTRING(text FROM start [FOR length])",
        ),
        Signature(
            "POSITION",
            ("part", "text"),
            _texts(Kind.TEXT, gives=Kind.INTEGER),
            "where the part begins in the text, from 1; 0: nowhere",
            "POSITION('-' IN ticket)",
            written="POSITION(part IN text)",
        ),
        Signature(
            "EXTRACT",
            ("field", "day"),
            _anything(Kind.INTEGER),
            "YEAR, QUARTER, MONTH, WEEK (ISO 8601), DAY, WEEKDAY (1 is Monday), HOUR, MINUTE or SECOND of it",
            "EXTRACT(MONTH FROM felled_on) IN (11, 12, 1)",
            written="EXTRACT(field FROM day)",
        ),
        Signature(
            "DATE_FROM",
            ("year", "month", "day"),
            _dates,
            "the day; none that is in no calendar",
            "DATE_FROM(EXTRACT(YEAR FROM felled_on), 1, 1)",
        ),
        Signature(
            "CAST",
            ("value", "kind"),
            _anything(Kind.TEXT),
            "the value as another kind; none where it does not fit",
            "CAST(ticket AS integer)",
            written="CAST(value AS kind)",
        ),
        Signature(
            "COALESCE",
            ("value", "value"),
            _anything(Kind.TEXT),
            "the first of the values that is there",
            "COALESCE(moisture_d14, moisture_d13)",
            repeats=True,
        ),
        Signature(
            "NULLIF",
            ("value", "other"),
            _anything(Kind.TEXT),
            "the value, or none where it equals the other",
            "NULLIF(species, '?')",
        ),
        Signature(
            "AVG",
            ("number",),
            _root,
            "the average of the rows that reach the line",
            "price_per_m3 - AVG(price_per_m3)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "SUM",
            ("number",),
            _number,
            "the sum of the rows that reach the line",
            "volume_m3 / SUM(volume_m3)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "MIN",
            ("value",),
            lambda kinds: kinds[0],
            "the least value of the rows that reach the line",
            "felled_on - MIN(felled_on)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "MAX",
            ("value",),
            lambda kinds: kinds[0],
            "the largest value of the rows that reach the line",
            "price_per_m3 = MAX(price_per_m3)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "COUNT",
            ("value",),
            _anything(Kind.INTEGER),
            "how many of the rows that reach the line have a value; COUNT(*): how many they are",
            "COUNT(*) > 100",
            over_rows=True,
            tallies=True,
            takes_rows=True,
            written="COUNT(value) or COUNT(*)",
        ),
        Signature(
            "QUANTILE",
            ("value", "share"),
            _quantile,
            "the value below which a share of the rows that reach the line lies, interpolated",
            "price_per_m3 > QUANTILE(price_per_m3, 0.95)",
            over_rows=True,
            tallies=True,
            takes_share=True,
        ),
        Signature(
            "COUNT DISTINCT",
            ("value",),
            _anything(Kind.INTEGER),
            "how many different values the rows that reach the line have",
            "COUNT(DISTINCT bay) > 3",
            over_rows=True,
            tallies=True,
            written="COUNT(DISTINCT value)",
        ),
        Signature(
            "MEDIAN",
            ("value",),
            lambda kinds: _quantile((*kinds, Kind.NUMBER)),
            "the middle value of the rows that reach the line: of two, halfway between",
            "price_per_m3 > MEDIAN(price_per_m3)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "VAR_SAMP",
            ("number",),
            _root,
            "the sample variance of the rows that reach the line",
            "VAR_SAMP(moisture_pct) > 4",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "STDDEV_SAMP",
            ("number",),
            _root,
            "the sample standard deviation of the rows that reach the line",
            "price_per_m3 > AVG(price_per_m3) + 2 * STDDEV_SAMP(price_per_m3)",
            over_rows=True,
            tallies=True,
        ),
        Signature(
            "REPEATED",
            ("value",),
            _anything(Kind.BOOLEAN),
            "true for the second and later rows with these values",
            "REPEATED(ticket)",
            repeats=True,
            over_rows=True,
        ),
    )
}


def unknown_function(name: str, start: int, mend: Mend | None = None) -> NoFunctionError:
    """Return the error for a function that is not there, at its place in a line."""
    error = NoFunctionError(f"there is no function {name.upper()}", start=start, end=start + len(name), mend=mend)
    error.function = name
    return error
