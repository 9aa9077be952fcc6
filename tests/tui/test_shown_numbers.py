"""Numbers on screen: no noise of binary, no exponent where there is room; what is matched and written never changes."""

from __future__ import annotations

import math
from decimal import Decimal
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from commands import yardcut
from tui.driving import Driven, drive
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.values.formatting import format_number, format_rounded
from yardcut.tui.number_marks import calm


@pytest.mark.parametrize(
    ("text", "shown"),
    [
        ("655.9000000000001", "655.9"), ("8477.039999999999", "8477.04"), ("0.30000000000000004", "0.3"), ("9.04517e+06", "9045170"),
        ("1e-05", "0.00001"), ("1e+300", "1e+300"), ("5e-324", "5e-324"), ("inf", "inf"), ("nan", "nan"), ("-inf", "-inf"),
        ("9007199254740993", "9007199254740993"), ("-123456789012345678901234567890", "-123456789012345678901234567890"), ("0", "0"),
        ("430", "430"), ("-0.1", "-0.1"),
    ],
)  # fmt: skip
def test_a_number_is_shown_as_it_is_read(text: str, shown: str) -> None:
    assert calm(text) == shown


@given(st.floats(allow_nan=False, allow_infinity=False))
def test_at_most_fifteen_digits_and_never_another_number(value: float) -> None:
    shown = calm(format_number(value))
    digits = shown.partition("e")[0].lstrip("-0.").replace(".", "")
    if "." in shown and "e" not in shown:
        assert len(digits) <= 15
    assert math.isclose(float(Decimal(shown)), value, rel_tol=1e-14, abs_tol=5e-324)


@given(st.integers(-(10**40), 10**40))
def test_integers_are_always_whole(value: int) -> None:
    assert calm(str(value)) == str(value)
    assert calm(str(value), 0) == str(value) or len(str(value)) > 21


@given(st.floats(-1e9, 1e9, allow_nan=False).filter(bool), st.integers(1, 6))
def test_digits_that_are_asked_for_hide_no_value(value: float, decimals: int) -> None:
    shown = calm(format_number(value), decimals)
    assert float(shown) != 0
    assert math.isclose(float(shown), value, abs_tol=0.51 * 10**-decimals)


@given(st.floats(allow_nan=False, allow_infinity=False), st.integers(2, 9))
def test_rounded_figures_have_no_exponent_and_a_whole_part(value: float, digits: int) -> None:
    shown = format_rounded(value, digits)
    assert "e" not in shown
    assert math.isclose(float(shown), value, rel_tol=10.0 ** -(digits - 1), abs_tol=1e-320)
    if abs(value) >= 10**digits:
        assert Decimal(shown) == round(Decimal(repr(value)))


@pytest.mark.long
def test_a_column_has_one_number_of_digits_and_files_the_exact_values(tmp_path: Path) -> None:
    (tmp_path / "packs.csv").write_text("ticket,volume,price\n1,0.1,3\n2,1.1,1.1\n3,2,10\n4,,5\n")

    async def steps(app: Driven) -> None:
        await app.until("4 rows × 3 columns")
        await app.line("make worth = volume * price", "worth carries the noise of binary fractions")
        await app.press("end")
        screen = await app.until("worth", "20.00")
        assert "0.30" in screen
        assert "1.21" in screen
        assert "1.2100000000000002" not in screen
        await app.press("tab", "end", "h")  # the mend of the hint
        await app.until("ROUND(volume * price, 2)")

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)
    done = yardcut("cut", "packs.csv", "-l", "make worth = volume * price", "-l", "columns worth", cwd=tmp_path)
    assert done.stdout.split() == ["worth", repr(0.1 * 3), repr(1.1 * 1.1), "20", '""']
    assert "make worth = ROUND(volume * price, 2)" in done.stderr


def test_no_digits_are_hinted_at_where_inputs_do_not_tell(tmp_path: Path) -> None:
    (tmp_path / "packs.csv").write_text("volume,price\n0.1,3\n1.1,7\n")
    for line in ("make x = volume / price", "make x = SQRT(volume)", "make x = price * 2", "make x = volume + 1"):
        assert "noise" not in yardcut("cut", "packs.csv", "-l", line, cwd=tmp_path).stderr, line
