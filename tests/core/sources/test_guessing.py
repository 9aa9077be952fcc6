from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from yardcut.core.sources.kinds.guessing_kinds import (
    MOST_SET_ASIDE_TEXTS,
    SET_ASIDE_SHARE,
    NeverNumericError,
    convert,
    guess_kind,
    has_leading_zero,
    may_set_aside,
)
from yardcut.core.values.kinds import Kind


@pytest.mark.parametrize(
    ("texts", "kind"),
    [
        (["1", "-2", "+3"], Kind.INTEGER),
        (["1", "2.5"], Kind.NUMBER),
        (["1e5", "-.5", "3."], Kind.NUMBER),
        (["true", "FALSE", "True"], Kind.BOOLEAN),
        (["2031-01-02", "2031-12-31"], Kind.DATE),
        (["2031-01-02 10:00", "2031-01-02T10:00:05"], Kind.TIMESTAMP),
        (["0", "1", "0"], Kind.INTEGER),
        (["yes", "no"], Kind.TEXT),
        (["007", "8"], Kind.TEXT),
        (["0x10", "8"], Kind.TEXT),
        (["9223372036854775807"], Kind.INTEGER),
        (["9223372036854775808"], Kind.TEXT),
        (["12345678901234567890123"], Kind.TEXT),
        (["2031-02-29", "2031-03-01"], Kind.TEXT),
        (["01.02.2031", "03.04.2031"], Kind.TEXT),
        (["+44 20 7946", "+44 20 7947"], Kind.TEXT),
        (["1,5", "2,5"], Kind.TEXT),
        (["inf", "nan"], Kind.TEXT),
        (["0.5", "-0.25", "0"], Kind.NUMBER),
        (["-0", "1"], Kind.INTEGER),
        (["-05", "1"], Kind.TEXT),
    ],
)
def test_a_kind_is_the_narrowest_that_fits(texts: list[str], kind: Kind) -> None:
    assert guess_kind(texts) is kind


def test_nothing_to_tell_by_is_no_kind() -> None:
    assert guess_kind([]) is None
    assert guess_kind([None, "", "  "]) is None


def test_a_decimal_comma_is_read_where_the_file_has_one() -> None:
    assert guess_kind(["1,5", "2"], ",") is Kind.NUMBER
    assert convert(["1,5", "-2,25", None], Kind.NUMBER, ",").values == [1.5, -2.25, None]
    assert convert(["1.5"], Kind.NUMBER, ",").unfit == [(0, "1.5")]


def test_few_odd_values_do_not_stand_in_the_way() -> None:
    numbers = [str(number) for number in range(SET_ASIDE_SHARE)]
    assert guess_kind([*numbers, "odd"]) is Kind.INTEGER
    assert guess_kind([*numbers[: SET_ASIDE_SHARE // 2], "odd"]) is Kind.TEXT
    assert may_set_aside(1, 1, SET_ASIDE_SHARE)
    assert not may_set_aside(1, 1, SET_ASIDE_SHARE - 1)
    assert not may_set_aside(1, MOST_SET_ASIDE_TEXTS + 1, 10**9)


def test_what_does_not_fit_is_named_with_its_place() -> None:
    found = convert(["1", "x", None, " ", "2"], Kind.INTEGER)
    assert found.values == [1, None, None, None, 2]
    assert found.unfit == [(1, "x")]
    with pytest.raises(NeverNumericError):
        convert(["1", "02"], Kind.INTEGER)


@given(st.lists(st.integers(-(2**63), 2**63 - 1), min_size=1))
def test_integers_of_64_bits_stay_exact(values: list[int]) -> None:
    texts = [str(value) for value in values]
    assert guess_kind(texts) is Kind.INTEGER
    assert convert(texts, Kind.INTEGER).values == values


@given(st.lists(st.floats(allow_nan=False, allow_infinity=False), min_size=1))
def test_numbers_stay_exact(values: list[float]) -> None:
    assert convert([repr(value) for value in values], Kind.NUMBER).values == values


@given(st.text("0123456789.-+x", max_size=6))
def test_a_leading_zero_is_one_that_a_number_would_lose(text: str) -> None:
    digits = text.lstrip("+-") if text[:1] in "+-" and text else text
    expected = (
        len(digits) > 1
        and digits[0] == "0"
        and (digits[1].isdigit() or digits[1] in "xX")
        and len(text) - len(digits) <= 1
    )
    assert has_leading_zero(text) == expected
