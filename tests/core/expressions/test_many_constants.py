"""IN with many constants: each value is compared as plain Python compares it, whatever it is stored as."""

from __future__ import annotations

import pickle
import random
import subprocess
import sys
from decimal import Decimal
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from slices import cut
from thoroughness import IS_LONG
from yardcut.core.expressions.testing.many_numbers import one_of_numbers
from yardcut.core.language.meaning.bound import ColumnValue, Constant, OneOf
from yardcut.core.language.meaning.bound_known import Constants
from yardcut.core.table.vectors import NumericVector
from yardcut.core.values.kinds import Kind

DAY = 86_400_000_000
EDGES = [0, 1, -1, 127, 128, -128, 2**31, 2**53, 2**53 + 1, 2**53 + 2, -(2**53) - 1, 2**62, 2**63 - 1, -(2**63)]


def same_number(stored: int | float, constant: int | Decimal) -> bool:
    """Tell whether a stored number equals a literal: docs/language.md rounds a decimal beside doubles, and no integer."""
    if isinstance(stored, int):
        return Fraction(stored) == Fraction(constant)
    if stored != stored:
        return False
    if isinstance(constant, Decimal):
        return stored == float(constant)
    return abs(stored) != float("inf") and Fraction(stored) == constant


def constants_of(chance: random.Random, count: int, spread: int) -> Constants:
    found = []
    for _ in range(count):
        whole = chance.choice([chance.choice(EDGES), chance.randint(-spread, spread), chance.randint(-spread, spread)])
        as_decimal = chance.random() < 0.3
        value = Decimal(whole) / 4 if as_decimal else whole
        found.append(Constant(Kind.NUMBER if as_decimal else Kind.INTEGER, value))
    return Constants(found)


@pytest.mark.parametrize("dtype", ["i1", "i2", "i4", "i8", "f8"])
@pytest.mark.parametrize("spread", [50, 10**7, 2**60])
def test_numbers(dtype: str, spread: int) -> None:
    chance = random.Random(f"{dtype} {spread}")
    hits = 0
    for _ in range(12 if IS_LONG else 2):
        constants = constants_of(chance, chance.choice([17, 40, 300]), spread)
        pool = [each.value for each in constants] + [chance.randint(-spread, spread) for _ in range(200)]
        if dtype == "f8":
            stored: list[int | float] = [float(value) for value in pool] + [float("nan"), float("inf"), -0.0, 0.25]
            kind = Kind.NUMBER
        else:
            bounds = np.iinfo(dtype)
            stored = [int(value) for value in pool if bounds.min <= value <= bounds.max]
            kind = Kind.INTEGER
        vector = NumericVector(kind, np.array(stored, dtype))
        found = one_of_numbers(vector, constants).tolist()
        assert found == [any(same_number(each, one.value) for one in constants) for each in stored]  # type: ignore[arg-type]
        hits += sum(found)
    assert hits


def test_days_beside_moments() -> None:
    days, moments = [-3, 0, 5, 9], [0, 1, 5 * DAY, 9 * DAY - 1, -3 * DAY]
    some = [Constant(Kind.DATE, each) for each in days] + [Constant(Kind.TIMESTAMP, each) for each in moments]
    constants = Constants(some * 3)
    as_days = NumericVector(Kind.DATE, np.array([-3, -2, 0, 5, 8, 9], "i4"))
    assert one_of_numbers(as_days, constants).tolist() == [True, False, True, True, False, True]
    as_moments = NumericVector(Kind.TIMESTAMP, np.array([1, 2, 5 * DAY, 9 * DAY, 9 * DAY - 1, 8 * DAY], "i8"))
    assert one_of_numbers(as_moments, constants).tolist() == [True, False, True, True, True, False]


def test_a_whole_cut_by_many_numbers(tmp_path: Path) -> None:
    (tmp_path / "a.csv").write_text("n,x\n" + "".join(f"{n},{n}.5\n" for n in range(500)) + ",7.5\n")
    wanted = [*range(0, 400, 3), "-7", "2.0"]
    listed = ", ".join(map(str, wanted))
    cut(tmp_path, f"keep n IN ({listed})", 'save "in.csv"')
    cut(tmp_path, f"drop NOT (n IN ({listed}))", 'save "not.csv"')
    rows = (tmp_path / "in.csv").read_text().splitlines()[1:]
    assert [row.split(",")[0] for row in rows] == [str(n) for n in range(500) if n in {*range(0, 400, 3), 2}]
    assert (tmp_path / "not.csv").read_text().splitlines()[1:-1] == rows, "no value is not dropped"


def test_what_is_kept_of_constants_is_theirs_alone() -> None:
    one, other = (Constants([Constant(Kind.TEXT, word) for word in words]) for words in (("a", "b"), ("a", "c")))
    same = Constants(tuple(one))
    assert (one == same, hash(one) == hash(same), repr(one) == repr(same)) == (True, True, True)
    assert one != other
    assert repr(one) != repr(other)
    assert repr(Constants([Constant(Kind.INTEGER, 1)])) != repr(Constants([Constant(Kind.NUMBER, Decimal(1))]))


def test_a_hash_stays_in_its_process() -> None:
    """The hash of a text is another in each process: who is sent a plan works out its own."""
    plan = OneOf(ColumnValue(0, Kind.TEXT), Constants([Constant(Kind.TEXT, "oak")]))
    hash(plan)
    check = "import pickle, sys; plan = pickle.load(sys.stdin.buffer); print(plan == pickle.loads(pickle.dumps(plan)), hash(plan.constants) == hash(tuple(plan.constants)))"
    done = subprocess.run([sys.executable, "-c", check], input=pickle.dumps(plan), capture_output=True, check=True)
    assert done.stdout.split() == [b"True", b"True"]
