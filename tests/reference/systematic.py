"""Lines by construction: every function, test and key, of every kind it takes, of literals, columns and computed values."""

from __future__ import annotations

import itertools
from collections.abc import Iterator

SHAPES: dict[str, tuple[str, str, str]] = {
    "integer": ("2", "small", "(small + 1)"),
    "number": ("2.5", "price", "(price * 2)"),
    "text": ("'oak'", "word", "(word || 'k')"),
    "boolean": ("TRUE", "flag", "(small > 1)"),
    "date": ("DATE '2031-03-01'", "day", "(day + INTERVAL '1' DAY)"),
    "timestamp": ("TIMESTAMP '2031-03-01 14:05:30'", "at", "(at - INTERVAL '1' HOUR)"),
    "time": ("TIME '14:05:00'", "clock", "(clock + INTERVAL '1' HOUR)"),
}  # fmt: skip
"""Of each kind a literal, a column with rows that have no value, and a computed value of one."""
NUMBERS, MOMENTS = ("integer", "number"), ("date", "timestamp")
EVERY = tuple(SHAPES)
FUNCTIONS: list[tuple[str, tuple[tuple[str, ...], ...]]] = [
    *((f"{name}({{0}})", (NUMBERS,)) for name in ("ABS", "CEILING", "FLOOR", "ROUND", "SQRT", "EXP", "LN", "LOG10")),
    ("ROUND({0}, {1})", (NUMBERS, ("integer",))), ("MOD({0}, {1})", (NUMBERS, NUMBERS)), ("POWER({0}, {1})", (NUMBERS, NUMBERS)),
    *((f"{name}({{0}}, {{1}})", ((kind,), (kind,))) for name in ("GREATEST", "LEAST") for kind in EVERY if kind != "boolean"),
    *((f"{name}({{0}}, {{1}})", ((kind,), (kind,))) for name in ("COALESCE", "NULLIF") for kind in EVERY),
    *((f"{name}({{0}})", (("text",),)) for name in ("UPPER", "LOWER", "TRIM", "CHAR_LENGTH")),
    ("TRIM(LEADING 'o' FROM {0})", (("text",),)), ("SUBSTRING({0} FROM {1} FOR {2})", (("text",), ("integer",), ("integer",))),
    ("SUBSTRING({0}, {1})", (("text",), ("integer",))), ("POSITION({0} IN {1})", (("text",), ("text",))), ("{0} || {1}", (("text",), ("text",))),
    *((f"EXTRACT({part} FROM {{0}})", (MOMENTS,)) for part in ("YEAR", "QUARTER", "MONTH", "WEEK", "DAY", "WEEKDAY")),
    *((f"EXTRACT({part} FROM {{0}})", (("timestamp", "time"),)) for part in ("HOUR", "MINUTE", "SECOND")),
    ("DATE_FROM(2031, {0}, {1})", (("integer",), ("integer",))),
    *((f"CAST({{0}} AS {to})", (kinds,)) for to, kinds in (
        ("text", ("integer", "text", "boolean", "date", "timestamp", "time")), ("integer", (*NUMBERS, "text")), ("number", (*NUMBERS, "text")),
        ("boolean", ("boolean", "text")), ("date", ("text", *MOMENTS)), ("timestamp", ("text", *MOMENTS)), ("time", ("text", "time", "timestamp")))),
    *((f"{{0}} {sign} {{1}}", (NUMBERS, NUMBERS)) for sign in "+-*/%"),
    ("{0} - {1}", (MOMENTS, MOMENTS)), ("-({0})", (NUMBERS,)),
    *((f"{{0}} {sign} INTERVAL '{count}' {unit}", (("date",),)) for sign in "+-" for count, unit in ((1, "DAY"), (1, "MONTH"), (3, "YEAR"))),
    *((f"{{0}} {sign} INTERVAL '90' {unit}", (("timestamp", "time"),)) for sign in "+-" for unit in ("HOUR", "MINUTE", "SECOND")),
    *(("CASE WHEN {0} THEN {1} ELSE {2} END", (("boolean",), (kind,), (kind,))) for kind in EVERY),
    *(("CASE {0} WHEN {1} THEN 1 ELSE NULL END", ((kind,), (kind,))) for kind in EVERY),
    *((f"{name}({{0}})", (NUMBERS,)) for name in ("SUM", "AVG")),
    *((f"{name}({{0}})", (tuple(kind for kind in EVERY if kind != "boolean"),)) for name in ("MIN", "MAX")),
    ("COUNT({0})", (EVERY,)), ("QUANTILE({0}, 0.4)", ((*NUMBERS, *MOMENTS),)), ("REPEATED({0}, {1})", (EVERY, ("integer",))),
]  # fmt: skip
TESTS: list[tuple[str, tuple[tuple[str, ...], ...]]] = [
    *((f"{{0}} {operator} {{1}}", ((kind,), (kind,))) for kind in EVERY for operator in ("=", "<>", "<", ">=")),
    *((f"{{0}} {operator} {{1}}", (one, other)) for operator in ("=", "<", ">=") for one, other in ((NUMBERS, NUMBERS), (MOMENTS, MOMENTS))),
    *((f"{{0}} {turned}BETWEEN {way}{{1}} AND {{2}}", ((kind,), (kind,), (kind,))) for kind in EVERY
      for turned in ("", "NOT ") for way in ("", "SYMMETRIC ")),
    *((f"{{0}} {turned}IN ({{1}}, {{2}})", ((kind,), (kind,), (kind,))) for kind in EVERY for turned in ("", "NOT ")),
    *((f"{{0}} {turned}{word} {{1}}{case}", (("text",), ("text",))) for turned in ("", "NOT ") for case in ("", " IGNORING CASE")
      for word in ("CONTAINS", "STARTS WITH", "ENDS WITH", "LIKE")),
    ("{0} = {1} IGNORING CASE", (("text",), ("text",))), ("{0} LIKE_REGEX 'o|k$' FLAG 'i'", (("text",),)),
    *((f"{{0}} IS {turned}NULL", (EVERY,)) for turned in ("", "NOT ")),
    *((f"{{0}} IS {turned}{word}", (("boolean",),)) for turned in ("", "NOT ") for word in ("TRUE", "FALSE", "UNKNOWN")),
    *((f"{{0}} IS {turned}DISTINCT FROM {{1}}", ((kind,), (kind,))) for kind in EVERY for turned in ("", "NOT ")),
]  # fmt: skip


def filled(template: str, kinds: tuple[tuple[str, ...], ...], *, whole: bool = True) -> Iterator[str]:
    """Yield a form with every kind and shape at every place: in all combinations, or each at least once."""
    places = [[shape for kind in some for shape in SHAPES[kind]] for some in kinds]
    if whole:
        yield from (template.format(*values) for values in itertools.product(*places))
        return
    for turn in range(max(map(len, places))):
        # each place goes on by another step, so that alike shapes do not always meet
        yield template.format(
            *(some[(turn + at * (turn // len(some) + 1)) % len(some)] for at, some in enumerate(places))
        )


def lines(*, whole: bool = True) -> Iterator[str]:
    """Yield lines for all of them."""
    for template, kinds in FUNCTIONS:
        for value in filled(template, kinds, whole=whole):
            yield f"make x = {value}"
    for template, kinds in TESTS:
        for test in filled(template, kinds, whole=whole):
            yield f"keep {test}"
    for kind in EVERY:
        for value in SHAPES[kind][1:]:
            for ways in ("", " DESC", " NULLS FIRST", " DESC NULLS FIRST"):
                yield f"order {value}{ways}, id DESC"
            yield f"draw first 2 per {value}"
            yield f"draw top 3 by {value}, id per flag with ties"
            yield f"draw bottom 3 by {value}"
    for ways in (
        "IGNORING CASE",
        "NUMBER AWARE",
        "IGNORING CASE NUMBER AWARE",
        "IN SEQUENCE ('R2', 'x')",
        "NUMBER AWARE DESC",
        "DESC NUMBER AWARE NULLS FIRST",
    ):
        yield f"order code {ways}"
    for weight in ("small", "price", "(price * 2)", "(small + 1)", "2"):
        yield f"draw random 5 weighted by {weight} seed 3"
        yield f"draw random 9 with replacement weighted by {weight} per flag seed 3"
