from __future__ import annotations

import pytest
from rich.style import Style

from yardcut.core.profile.summary import Summary
from yardcut.core.values.kinds import Kind
from yardcut.tui.panels.gauge import _commonest, _compared, _counts, _figures, _quarters
from yardcut.tui.part_styles import _PARTS, part_style
from yardcut.tui.theme import DARK, LIGHT
from yardcut.tui.widgets.grid.grid_lines import head_marks, prepare
from yardcut.tui.widgets.grid.grid_source import GridColumn, GridPage, PreviewSource

NUMBERS = Summary(
    "price", Kind.NUMBER, 120, 100, 60, "1.5", "3", "4", "5", "9", "410", "4.1", bins=(1, 5, 2), set_aside=2,
    set_aside_texts=(("n/a\x1b[0m", 2),),
)  # fmt: skip
TEXTS = Summary("grade", Kind.TEXT, 10, 10, 3, commonest=(("A", 6), ("", 3), ("[b]", 1)))


def plain(parts: list[tuple[str, str]]) -> str:
    return "".join(text for text, _ in parts)


def test_counts_say_missing_share_distinct_and_set_aside() -> None:
    assert (
        plain(_counts(NUMBERS))
        == "100 values · 20 missing (16.7%) · 60 distinct · 2 set aside in the source: n/a␛[0m ×2"
    )
    assert "missing · 3" not in plain(_counts(TEXTS))


def test_figures_stand_only_where_they_are_known() -> None:
    assert _figures(NUMBERS) == "least 1.5 · average 4.1 · most 9 · sum 410"
    assert _quarters(NUMBERS) == "quarter 3 · middle 4 · three quarters 5"
    assert _figures(TEXTS) == _quarters(TEXTS) == ""


def test_the_commonest_texts_are_literal() -> None:
    assert _commonest(TEXTS) == "A 6 · empty text 3 · [b] 1"
    once = Summary("ticket", Kind.TEXT, 2, 2, 2, commonest=(("a", 1), ("b", 1)))
    assert _commonest(once) == "every value stands once"


def test_the_line_above_is_compared_with() -> None:
    assert _compared(NUMBERS, NUMBERS) == "the line above has an average of 4.1 over 100"
    assert _compared(TEXTS, TEXTS) == "the line above has 10 values, 3 distinct"


@pytest.mark.parametrize("theme", [DARK, LIGHT])
@pytest.mark.parametrize("part", sorted(_PARTS))
def test_every_part_has_a_style_in_every_theme(theme: object, part: str) -> None:
    style = part_style(theme, part)  # type: ignore[arg-type]
    assert isinstance(style, Style)
    assert style != Style()
    assert part_style(theme, part) is style  # type: ignore[arg-type]


def contrast(one: str, other: str) -> float:
    """Contrast ratio of two colours (WCAG 2.2, 1.4.3)."""

    def luminance(colour: str) -> float:
        channels = [int(colour[at : at + 2], 16) / 255 for at in (1, 3, 5)]
        linear = [value / 12.92 if value <= 0.04045 else ((value + 0.055) / 1.055) ** 2.4 for value in channels]
        return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

    lighter, darker = sorted((luminance(one), luminance(other)), reverse=True)
    return (lighter + 0.05) / (darker + 0.05)


@pytest.mark.parametrize("theme", [DARK, LIGHT])
def test_what_must_be_read_can_be_read(theme: object) -> None:
    background = theme.background  # type: ignore[attr-defined]
    colours = theme.variables  # type: ignore[attr-defined]
    assert contrast(theme.foreground, background) >= 7  # type: ignore[attr-defined]
    for name in ("saw", "none", "would", "dim", "plank"):
        assert contrast(colours[name], background) >= 3, name
    assert contrast(colours["cursor-text"], colours["cursor"]) >= 4.5


def test_a_head_is_marked_by_order_and_restriction() -> None:
    assert head_marks(GridColumn("a", "text", 1, 0)) == ""
    first = head_marks(GridColumn("a", "text", 1, 0, 1, False, True))
    second = head_marks(GridColumn("a", "text", 1, 0, 2, True, False))
    assert "↑" in first
    assert "↓" in second
    assert first != second


def test_numbers_stand_right_and_the_preview_is_a_source() -> None:
    source = PreviewSource(["a", "b"], ["integer", "text"], [["1", "x"], [None, "y"], ["300", None]])
    assert source.row_count == 3
    assert [column.right for column in source.columns] == [True, False]
    page = source.page(1, 3, [0, 1])
    assert list(page.source_rows) == [2, 3]
    assert page.cells == [[None, "300"], ["y", None]]
    prepared = prepare(GridPage(page.source_rows, page.cells), [(source.columns[0], 6), (source.columns[1], 4)])
    assert prepared is not None
