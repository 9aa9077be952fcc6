from hypothesis import given
from hypothesis import strategies as st
from rich.cells import cell_len

from yardcut.tui.text import LONGEST, clean, fit, glance, wrap


@given(st.text(max_size=60))
def test_nothing_a_terminal_obeys_comes_through(text: str) -> None:
    shown = clean(text)
    assert shown.isprintable()
    assert not any(ord(char) < 0x20 or 0x7F <= ord(char) < 0xA0 for char in shown)
    assert not any(char in "\u200b\u200e\u202e\u2066\ufe0f" for char in shown)


@given(st.text(max_size=60), st.integers(1, 40), st.booleans())
def test_a_fitted_text_takes_exactly_its_cells(text: str, width: int, right: bool) -> None:
    assert cell_len(fit(clean(text), width, right=right)) == width


@given(st.text(max_size=120), st.integers(4, 40))
def test_wrapped_lines_fit_and_lose_nothing(text: str, width: int) -> None:
    lines = wrap(clean(text), width)
    assert all(cell_len(line) <= width for line in lines)
    assert "".join(lines).replace(" ", "") == clean(text).replace(" ", "")


def test_stand_ins_can_be_read() -> None:
    assert clean("\x1b[31mred\x1b[0m\n\ttab") == "␛[31mred␛[0m↵⇥tab"
    assert clean("a\u202eb\udc80") == "a⟂b�"
    assert clean("[red]markup[/red]") == "[red]markup[/red]"
    assert fit("a long text", 6) == "a lon…"
    assert fit("乾燥割れ", 5) == "乾燥…"


def test_what_no_screen_can_show_is_left_out() -> None:
    long = "oak " * 1_000_000
    assert len(clean(long)) == LONGEST + 1
    assert clean(long).endswith("…")
    assert glance(long) == long[:512]
    assert glance("a\x1b[0m") == "a␛[0m"
