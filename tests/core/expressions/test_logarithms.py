"""Logarithm, exponential and power: against decimals of sixty digits, and the same bits whatever the processor can do."""

from __future__ import annotations

import hashlib
import math
import os
import subprocess
import sys
from decimal import Decimal, localcontext

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.expressions.computing.logarithms import decimal_logarithm, exponential, natural_logarithm, power

numbers = st.floats(allow_nan=False, allow_infinity=False)
positive = st.floats(min_value=5e-324, allow_infinity=False, allow_nan=False)
small = st.floats(-740, 709)


def nearest(value: Decimal) -> float:
    found = float(value)
    return math.nan if math.isinf(found) else found


def same(found: float, truth: float, least: float = 0.0) -> bool:
    """Tell whether a value is the truth or the double beside it."""
    if math.isnan(truth):
        return math.isnan(found)
    return found == truth or abs(found - truth) <= max(math.ulp(truth), least)


@given(positive)
def test_logarithms(value: float) -> None:
    with localcontext() as context:
        context.prec = 60
        assert same(natural_logarithm(np.array([value]))[0], nearest(Decimal(value).ln()))
        assert same(decimal_logarithm(np.array([value]))[0], nearest(Decimal(value).log10()))


@given(small)
def test_exponentials(value: float) -> None:
    with localcontext() as context:
        context.prec = 60
        assert same(exponential(np.array([value]))[0], nearest(Decimal(value).exp()), 5e-324)


@given(positive, st.floats(-400, 400))
def test_powers(base: float, exponent: float) -> None:
    with localcontext() as context:
        context.prec, context.Emax, context.Emin = 60, 10**6, -(10**6)
        assert same(
            power(np.array([base]), np.array([exponent]))[0], nearest(Decimal(base) ** Decimal(exponent)), 5e-324
        )


@pytest.mark.parametrize(
    ("base", "exponent", "truth"),
    [
        (10, 2, 100), (2, 0.5, math.sqrt(2)), (-2, 3, -8), (-2, 0.5, math.nan), (0, 0, 1), (0, -1, math.nan), (0, 2, 0),
        (1e200, 2, math.nan), (1e-200, 2, 0), (-8, 1 / 3, math.nan), (2, -1074, 5e-324), (-1, 1e300, 1),
        (1, 1e300, 1), (2, math.nan, math.nan), (math.nan, 0, math.nan), (0.5, 1e300, 0), (-3, 2, 9),
    ],
)  # fmt: skip
def test_powers_at_their_edges(base: float, exponent: float, truth: float) -> None:
    found = power(np.array([float(base)]), np.array([float(exponent)]))[0]
    assert found == truth or (math.isnan(found) and math.isnan(truth))


def test_powers_of_ten_have_whole_logarithms() -> None:
    exponents = np.arange(-300, 309)
    tens = np.array([float(f"1e{exponent}") for exponent in exponents])
    assert (decimal_logarithm(tens) == exponents).all()
    assert np.isnan(natural_logarithm(np.array([0.0, -1.0]))).all()


_DIGEST = """
import hashlib, numpy as np
from yardcut.core.expressions.computing.logarithms import *
values = np.random.default_rng(1).random(40_000) * 50 + 1e-9
found = [natural_logarithm(values), decimal_logarithm(values), exponential(values), power(values, values[::-1] / 9)]
print(hashlib.sha256(b"".join(each.tobytes() for each in found)).hexdigest())
"""


@pytest.mark.long
def test_the_same_bits_with_and_without_the_newer_instructions_and_in_any_parts() -> None:
    def digest(**environment: str) -> str:
        done = subprocess.run(
            [sys.executable, "-c", _DIGEST],
            env={**os.environ, **environment},
            capture_output=True,
            text=True,
            check=True,
        )
        return done.stdout.strip()

    plain = digest()
    assert digest(NPY_DISABLE_CPU_FEATURES="AVX512F AVX512CD AVX512_SKX AVX2 FMA3") == plain
    values = np.random.default_rng(1).random(40_000) * 50 + 1e-9
    parts = [values[:7], values[7:20_000], values[20_000:]]
    reversed_parts = [(values[::-1] / 9)[:7], (values[::-1] / 9)[7:20_000], (values[::-1] / 9)[20_000:]]
    found = [
        *(
            np.concatenate([work(part) for part in parts])
            for work in (natural_logarithm, decimal_logarithm, exponential)
        ),
        np.concatenate([power(*pair) for pair in zip(parts, reversed_parts, strict=True)]),
    ]
    assert hashlib.sha256(b"".join(each.tobytes() for each in found)).hexdigest() == plain
