"""Every function and form of the language against plain Python on random rows with missing values."""

from __future__ import annotations

import datetime
import math
import statistics
from collections.abc import Callable
from decimal import Decimal
from fractions import Fraction
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from helpers import WriteTable, run_lines
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.run.executing.bound_lines import bind_line
from yardcut.core.table.stored_table import Table

HEADER = ["code", "words", "whole", "other", "price", "day", "moment", "clock", "held"]
Row = tuple[Any, ...]
quiet = settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture], deadline=None)

days = st.dates(datetime.date(1600, 1, 1), datetime.date(2400, 12, 31)) | st.sampled_from(
    [datetime.date(y, m, d) for y, m, d in ((2032, 2, 29), (2031, 12, 31), (2029, 1, 1), (2030, 12, 30), (2100, 2, 28))]
)
moments = st.datetimes(datetime.datetime(1800, 1, 1), datetime.datetime(2200, 1, 1))
words = st.text("aBß é'x-0 \t", max_size=6).filter(lambda text: text not in ("", "NA") and text.strip() != "")
rows = st.lists(
    st.tuples(
        st.sampled_from(["oak", "Ash ", " larch", "N-7", "00x0"]) | st.none(),
        words | st.none(),
        st.integers(-(10**6), 10**6) | st.none(),
        st.sampled_from([0, 1, 2, 3, -3, 7]) | st.none(),
        st.sampled_from([0.0, 0.5, -2.5, 1.25, 1e6, 18.0, 2.675]) | st.none(),
        days | st.none(),
        moments | st.none(),
        st.times() | st.none(),
        st.booleans() | st.none(),
    ),
    min_size=1,
    max_size=9,
)
SURE: Row = ("oak", "wörd", 3, 2, 1.5, datetime.date(2031, 3, 1), datetime.datetime(2031, 3, 1, 14, 5, 0, 250000),
             datetime.time(14, 5, 30), True)  # fmt: skip


def table_with(table_of: WriteTable, some: list[Row]) -> tuple[Table, list[Row]]:
    """Write a table whose first row has every value, so that the kinds are sure; times keep their microseconds."""
    known = [SURE, *some]
    written = [
        [cell.isoformat() if isinstance(cell, datetime.date | datetime.time) else cell for cell in row] for row in known
    ]
    return table_of(HEADER, written), known


def shown(value: Any) -> str | None:
    """Write a value as the grid shows it."""
    match value:
        case None:
            return None
        case bool():
            return "true" if value else "false"
        case float():
            return None if not math.isfinite(value) else repr(value + 0.0).removesuffix(".0")
        case datetime.datetime():
            return value.isoformat(sep=" ")
        case _ if isinstance(value, datetime.date | datetime.time):
            return value.isoformat()
        case _:
            return str(value)


def column(table: Table, expression: str, *above: str) -> list[str | None]:
    frame = run_lines(table, *above, f"make found = {expression}")[-1].frame
    return list(frame.page(0, frame.rows.count, [len(frame.columns) - 1]).cells[0])


def wants(*places: int) -> Callable[[Callable[..., Any]], Callable[[Row], Any]]:
    """Turn a function of values into one of rows that gives none where one of them is missing, or it has no answer."""

    def make(function: Callable[..., Any]) -> Callable[[Row], Any]:
        def of_row(row: Row) -> Any:
            values = [row[place] for place in places]
            if None in values:
                return None
            try:
                return function(*values)
            except (ValueError, ZeroDivisionError, OverflowError):
                return None

        return of_row

    return make


def months_on(day: Any, months: int) -> Any:
    month = day.year * 12 + day.month - 1 + months
    year, month = month // 12, month % 12 + 1
    for last in (day.day, 28, 29, 30, 31):
        try:
            found = day.replace(year=year, month=month, day=min(day.day, 31 if last == day.day else last))
        except ValueError:
            continue
        if last != day.day:
            break
        return found
    after = datetime.date(year + month // 12, month % 12 + 1, 1) - datetime.timedelta(days=1)
    return day.replace(year=year, month=month, day=min(day.day, after.day))


def cut_text(text: str, start: int, length: int) -> str:
    return "".join(char for place, char in enumerate(text, 1) if start <= place < start + length)


CODE, WORDS, WHOLE, OTHER, PRICE, DAY, MOMENT, CLOCK, HELD = range(9)
ROWWISE: dict[str, Callable[[Row], Any]] = {
    "UPPER(code)": wants(CODE)(str.upper),
    "LOWER(words)": wants(WORDS)(str.lower),
    "UPPER(code || 'q')": wants(CODE)(lambda text: f"{text}q".upper()),
    "LOWER(words || 'Q')": wants(WORDS)(lambda text: f"{text}q".lower()),
    "TRIM(LOWER(code))": wants(CODE)(lambda text: text.lower().strip()),
    "TRIM(LEADING '0' FROM code)": wants(CODE)(lambda text: text.lstrip("0")),
    "TRIM(BOTH 'x' FROM words)": wants(WORDS)(lambda text: text.strip("x")),
    "TRIM(TRAILING FROM words)": wants(WORDS)(str.rstrip),
    "CHAR_LENGTH(code)": wants(CODE)(len),
    "CHAR_LENGTH(words)": wants(WORDS)(len),
    "SUBSTRING(words FROM 2 FOR 2)": wants(WORDS)(lambda text: cut_text(text, 2, 2)),
    "SUBSTRING(words, other)": wants(WORDS, OTHER)(lambda text, start: cut_text(text, start, 99)),
    "SUBSTRING(code FROM 0 FOR 2)": wants(CODE)(lambda text: cut_text(text, 0, 2)),
    "POSITION('x' IN words)": wants(WORDS)(lambda text: text.find("x") + 1),
    "POSITION(words IN code)": wants(WORDS, CODE)(lambda part, text: text.find(part) + 1),
    "code || '-' || words": wants(CODE, WORDS)(lambda one, other: f"{one}-{other}"),
    "GREATEST(code, words)": wants(CODE, WORDS)(max),
    "EXTRACT(YEAR FROM day)": wants(DAY)(lambda day: day.year),
    "EXTRACT(QUARTER FROM day)": wants(DAY)(lambda day: (day.month + 2) // 3),
    "EXTRACT(MONTH FROM moment)": wants(MOMENT)(lambda day: day.month),
    "EXTRACT(WEEK FROM day)": wants(DAY)(lambda day: day.isocalendar().week),
    "EXTRACT(DAY FROM moment)": wants(MOMENT)(lambda day: day.day),
    "EXTRACT(WEEKDAY FROM day)": wants(DAY)(lambda day: day.isoweekday()),
    "EXTRACT(HOUR FROM moment)": wants(MOMENT)(lambda moment: moment.hour),
    "EXTRACT(MINUTE FROM clock)": wants(CLOCK)(lambda clock: clock.minute),
    "EXTRACT(SECOND FROM moment)": wants(MOMENT)(lambda moment: moment.second + moment.microsecond / 1e6),
    "DATE_FROM(2032, other, 29 + other)": wants(OTHER)(lambda n: datetime.date(2032, n, 29 + n)),
    "DATE_FROM(whole, 2, 3)": wants(WHOLE)(lambda year: datetime.date(year, 2, 3)),
    "day + INTERVAL '7' DAY": wants(DAY)(lambda day: day + datetime.timedelta(days=7)),
    "day - INTERVAL '1' MONTH": wants(DAY)(lambda day: months_on(day, -1)),
    "day + INTERVAL '4' YEAR": wants(DAY)(lambda day: months_on(day, 48)),
    "INTERVAL '90' MINUTE + moment": wants(MOMENT)(lambda moment: moment + datetime.timedelta(minutes=90)),
    "moment - INTERVAL '13' MONTH": wants(MOMENT)(lambda moment: months_on(moment, -13)),
    "clock + INTERVAL '11' HOUR": wants(CLOCK)(
        lambda clock: (datetime.datetime.combine(datetime.date(2000, 1, 1), clock) + datetime.timedelta(hours=11)).time()
    ),
    "day - DATE '2031-01-01'": wants(DAY)(lambda day: (day - datetime.date(2031, 1, 1)).days),
    "CAST(price AS integer)": wants(PRICE)(int),
    "CAST(whole AS number)": wants(WHOLE)(float),
    "CAST(held AS integer)": wants(HELD)(int),
    "CAST(day AS timestamp)": wants(DAY)(lambda day: datetime.datetime.combine(day, datetime.time())),
    "CAST(moment AS date)": wants(MOMENT)(lambda moment: moment.date()),
    "CAST(moment AS time)": wants(MOMENT)(lambda moment: moment.time()),
    "CAST(price AS text)": wants(PRICE)(shown),
    "CAST(CAST(day AS text) AS date)": wants(DAY)(lambda day: day),
    "CAST(CAST(moment AS text) AS timestamp)": wants(MOMENT)(lambda moment: moment),
    "CAST(CAST(price AS text) AS number)": wants(PRICE)(lambda price: price),
    "CAST(code AS number)": lambda row: None,
    "POWER(other, 3)": wants(OTHER)(lambda n: float(n**3)),
    "POWER(price, other)": wants(PRICE, OTHER)(lambda x, n: float(Fraction(x) ** n)),
    "SQRT(price)": wants(PRICE)(math.sqrt),
    "LN(price)": wants(PRICE)(lambda x: float(Decimal(x).ln()) if x > 0 else None),
    "LOG10(whole)": wants(WHOLE)(lambda x: float(Decimal(x).log10()) if x > 0 else None),
    "EXP(other)": wants(OTHER)(lambda x: float(Decimal(x).exp())),
    "MOD(whole, other)": wants(WHOLE, OTHER)(lambda a, c: int(math.copysign(abs(a) % abs(c), a))),
    "COALESCE(price, whole, -1)": lambda row: next(float(x) for x in (row[PRICE], row[WHOLE], -1) if x is not None),
    "COALESCE(code, words, NULL)": lambda row: row[CODE] if row[CODE] is not None else row[WORDS],
    "NULLIF(other, 3)": lambda row: None if row[OTHER] == 3 else row[OTHER],
    "NULLIF(code, 'oak')": lambda row: None if row[CODE] == "oak" else row[CODE],
    "CASE WHEN whole > 0 AND held THEN 'up' WHEN whole <= 0 THEN code ELSE NULL END": lambda row: (
        "up" if row[WHOLE] is not None and row[WHOLE] > 0 and row[HELD]
        else row[CODE] if row[WHOLE] is not None and row[WHOLE] <= 0 else None
    ),
    "CASE other WHEN 1 THEN price WHEN 2 THEN whole ELSE 0 END": lambda row: (
        {1: row[PRICE], 2: None if row[WHOLE] is None else float(row[WHOLE])}.get(row[OTHER], 0.0)
    ),
    "CASE code WHEN 'oak' THEN '2031-01-01' ELSE day END": lambda row: (
        datetime.date(2031, 1, 1) if row[CODE] == "oak" else row[DAY]
    ),
    "whole > 0 OR held": lambda row: (
        True if (row[WHOLE] is not None and row[WHOLE] > 0) or row[HELD] is True
        else None if row[WHOLE] is None or row[HELD] is None else False
    ),
    "SUM OF (whole, other)": lambda row: (lambda v: sum(v) if v else None)([x for x in row[2:4] if x is not None]),
    "AVG OF (whole, other, price)": lambda row: (
        (lambda v: sum(map(float, v)) / len(v) if v else None)([x for x in row[2:5] if x is not None])
    ),
    "MIN OF (whole, price)": lambda row: min((float(x) for x in (row[WHOLE], row[PRICE]) if x is not None), default=None),
    "MAX OF (code, words)": lambda row: max((x for x in row[:2] if x is not None), default=None),
    "MAX OF (day, moment)": lambda row: max(
        (x if isinstance(x, datetime.datetime) else datetime.datetime.combine(x, datetime.time())
         for x in (row[DAY], row[MOMENT]) if x is not None), default=None,
    ),
    "COUNT OF (all)": lambda row: sum(x is not None for x in row),
    "ANY OF (whole, other, price) > 2": lambda row: any(x > 2 for x in row[2:5] if x is not None),
    "ALL OF (whole, other, price) > 0": lambda row: (
        (lambda v: bool(v) and all(x > 0 for x in v))([x for x in row[2:5] if x is not None])
    ),
    "other IS DISTINCT FROM whole": lambda row: row[OTHER] != row[WHOLE],
    "code IS NOT DISTINCT FROM words": lambda row: row[CODE] == row[WORDS],
    "price IS DISTINCT FROM 0.5": lambda row: row[PRICE] != 0.5,
    "other IN (whole, 2, 1 + 2)": lambda row: (
        None if row[OTHER] is None else True if row[OTHER] in (row[WHOLE], 2, 3) else None if row[WHOLE] is None else False
    ),
    "code NOT IN ('oak', words)": lambda row: (
        None if row[CODE] is None else False if row[CODE] in ("oak", row[WORDS]) else None if row[WORDS] is None else True
    ),
    "ANY OF (all) IS NULL": lambda row: None in row,
    "ALL OF (all) IS NOT NULL": lambda row: None not in row,
    "ANY OF (all) CONTAINS '5'": lambda row: any("5" in (shown(x) or "") for x in row),
    "ANY OF (all) = ' OAK' IGNORING CASE": lambda row: any(
        isinstance(x, str) and x.strip().lower() == "oak" for x in row
    ),
    "ANY OF (kind text) NOT LIKE '%a%'": lambda row: any("a" not in x for x in row[:2] if x is not None),
}  # fmt: skip


@pytest.mark.long
@quiet
@given(some=rows, expression=st.sampled_from(sorted(ROWWISE)))
def test_a_form_gives_what_a_plain_definition_gives(table_of: WriteTable, some: list[Row], expression: str) -> None:
    table, known = table_with(table_of, some)
    assert column(table, expression) == [shown(ROWWISE[expression](row)) for row in known]


@pytest.mark.parametrize("expression", sorted(ROWWISE))
def test_every_form_works_once(table_of: WriteTable, expression: str) -> None:
    missing: Row = (None,) * len(HEADER)
    table, known = table_with(table_of, [missing, SURE])
    assert column(table, expression) == [shown(ROWWISE[expression](row)) for row in known]


def middle(values: list[Any], share: Fraction) -> float:
    values = sorted(Fraction(repr(x)) for x in values)
    place = (len(values) - 1) * share
    low = math.floor(place)
    high = min(low + 1, len(values) - 1)
    return float(values[low] + (values[high] - values[low]) * (place - low))


WHOLES: dict[str, tuple[int, Callable[[list[Any]], Any]]] = {
    "AVG(price)": (PRICE, lambda v: float(sum(map(Fraction, v)) / len(v))),  # exact, divided, and rounded once
    "SUM(whole)": (WHOLE, sum),
    "MIN(words)": (WORDS, min),
    "MAX(code)": (CODE, max),
    "MAX(day)": (DAY, max),
    "COUNT(held)": (HELD, len),
    "QUANTILE(price, 0.9)": (PRICE, lambda v: middle(v, Fraction(9, 10))),
    "QUANTILE(whole, 0.25)": (WHOLE, lambda v: middle(v, Fraction(1, 4))),
    "QUANTILE(day, 0.5)": (DAY, lambda v: sorted(v)[(len(v) - 1) // 2]),
}


def test_an_average_is_rounded_once(table_of: WriteTable) -> None:
    """The sum of these, rounded to a number first, would give ...2500000003."""
    table, known = table_with(table_of, [(*SURE[:PRICE], price, *SURE[PRICE + 1 :]) for price in (1e6, 2.675)])
    assert column(table, "AVG(price)") == ["333334.725"] * len(known)


@quiet
@given(some=rows, expression=st.sampled_from(sorted(WHOLES)))
def test_a_value_of_all_rows_is_that_of_the_rows_that_reach_the_line(
    table_of: WriteTable, some: list[Row], expression: str
) -> None:
    table, known = table_with(table_of, some)
    place, truth = WHOLES[expression]
    left = [row for row in known if row[OTHER] is not None and row[OTHER] > 0]
    expected = shown(truth([row[place] for row in left if row[place] is not None]))
    assert column(table, expression, "keep other > 0") == [expected] * len(left)


@pytest.mark.long
@quiet
@given(some=rows)
def test_the_second_and_later_rows_with_the_same_values_are_repeated_ones(
    table_of: WriteTable, some: list[Row]
) -> None:
    table, known = table_with(table_of, some)
    order = sorted(range(len(known)), key=lambda row: (known[row][OTHER] is None, known[row][OTHER] or 0))
    seen: set[Row] = set()
    expected = []
    for row in order:
        key = (known[row][CODE], known[row][HELD])
        if known[row][CODE] != "N-7":
            expected.append(shown(key in seen))
            seen.add(key)
    found = column(table, "REPEATED(code, held)", "order other", "drop code = 'N-7'")
    assert found == expected


def test_values_of_all_rows_stay_those_of_their_line(table_of: WriteTable) -> None:
    table = table_of(["a"], [[1], [2], [3], [10]])
    results = run_lines(table, "make share = a / SUM(a), over = a > AVG(a)", "keep a < 10", "make again = a / SUM(a)",
                        "keep share > 0.1", "keep a = MAX(a)")  # fmt: skip
    frame = results[2].frame
    assert frame.page(0, 3, [1, 3]).cells == (("0.0625", "0.125", "0.1875"), tuple(map(shown, (1 / 6, 2 / 6, 0.5))))
    assert [result.rows.count for result in results] == [4, 3, 3, 2, 1]
    assert statistics.mean([1, 2, 3, 10]) == 4
    assert frame.page(0, 3, [2]).cells == (("false", "false", "false"),)
    empty = run_lines(table, "keep a > 99", "make s = SUM(a), n = COUNT(*), worst = a > QUANTILE(a, 0.9)")[-1]
    assert empty.rows.count == 0


@pytest.mark.parametrize(
    ("line", "says"),
    [
        ("make a = UPPER(whole)", "does not take an integer"),
        ("make a = EXTRACT(HOUR FROM day)", "a date has no HOUR"),
        ("make a = EXTRACT(YAER FROM day)", "did you mean YEAR"),
        ("make a = day + 7", "INTERVAL '7' DAY"),
        ("make a = day + INTERVAL '2' HOUR", "CAST(day AS timestamp)"),
        ("make a = day + INTERVAL '2' WEEK", "YEAR, MONTH, DAY"),
        ("make a = day + INTERVAL 'two' DAY", "whole number"),
        ("make a = CAST(day AS integer)", "cannot become"),
        ("make a = CASE WHEN held THEN 1 ELSE 'x' END", "side by side"),
        ("make a = COALESCE(NULL, NULL)", "CAST(NULL AS text)"),
        ("make a = AVG(SUM(whole))", "cannot stand within AVG"),
        ("make a = QUANTILE(price, 7)", "between 0 and 1"),
        ("make a = SUM(*)", "only COUNT takes *"),
        ("make a = AVG OF (code, price)", "leave it out"),
        ("make a = code || whole", "CAST(whole AS text)"),
        ("keep held || held", "OR joins conditions"),
        ("keep ANY OF (whole, price)", "left of a comparison"),
        ("keep ANY OF (day) > 'x'", "x is not a date"),
        ("make a = TRIM('ab' FROM code)", "one character"),
        ("make a = whole + b, b = 3", "no column b"),
        ("make a = INTERVAL '7' DAY", "added to a day"),
        ("make a = ABS(*)", "only COUNT takes *"),
        ("make a = COALESCE(*)", "only COUNT takes *"),
        ("make a = NULLIF(*)", "only COUNT takes *"),
        ("keep whole IN (NULL, price)", "OR … IS NULL"),
        ("keep price IS DISTINCT FROM NULL", "price IS NOT NULL"),
        ("keep price IS NOT DISTINCT FROM NULL", "price IS NULL"),
        ("make a = NULLIF(NULL, NULL)", "NULL cannot stand here"),
    ],
)
def test_what_cannot_be_meant_says_why(table_of: WriteTable, line: str, says: str) -> None:
    table, _ = table_with(table_of, [])
    with pytest.raises(ListError) as caught:
        bind_line(line, source_scope(table))
    error = caught.value
    assert says in str(error) + (error.mend.text or error.mend.says if error.mend else "")
    assert 0 <= error.start < error.end <= len(line)
    if error.mend is not None and error.mend.text is not None:
        bind_line(error.mend.text, source_scope(table))
