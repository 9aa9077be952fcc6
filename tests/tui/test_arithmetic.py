"""Bars, viewports and column widths: arithmetic without a terminal."""

from hypothesis import given
from hypothesis import strategies as st

from yardcut.tui.widgets.bar_cells import heights, merged, plank
from yardcut.tui.widgets.grid.grid_layout import cells_width, head_width, most_decimals, shown_cells
from yardcut.tui.widgets.grid.grid_source import GridColumn
from yardcut.tui.widgets.grid.viewport import GAP_CELLS, Viewport, column_at, leftmost, shown_columns


@given(st.integers(0, 10**9), st.integers(0, 10**9), st.integers(0, 10**9), st.integers(2, 80))
def test_a_bar_is_full_and_no_part_vanishes(left: int, taken: int, gone: int, width: int) -> None:
    total = left + taken + gone
    solid, saw, dotted = plank(left, taken, total, width)
    assert solid + saw + dotted == width
    assert min(solid, saw, dotted) >= 0
    assert (solid > 0) >= (left > 0 and total > 0)
    assert (saw > 0) >= (taken > 0 and total > 0)


def test_bars_read_down_as_one_plank() -> None:
    assert plank(50, 50, 100, 30) == (15, 15, 0)
    assert plank(25, 25, 100, 30) == (8, 7, 15)
    assert plank(0, 0, 0, 30) == (0, 0, 30)


@given(st.lists(st.integers(0, 1000), max_size=60), st.integers(1, 30))
def test_merged_bins_keep_every_row(bins: list[int], width: int) -> None:
    found = merged(bins, width)
    assert sum(found) == sum(bins)
    assert len(found) <= width
    assert len(heights(found)) == len(found)


def test_an_emptied_bin_shows_as_a_dot() -> None:
    assert heights([4, 0, 0, 1], [4, 4, 0, 1]) == "█· ▂"


WIDTHS = st.lists(st.integers(1, 30), min_size=1, max_size=40)


@given(
    WIDTHS,
    st.lists(st.tuples(st.integers(-50, 500), st.integers(-3, 50)), max_size=10),
    st.integers(1, 40),
    st.integers(30, 120),
)
def test_the_cursor_is_always_on_screen(
    widths: list[int], moves: list[tuple[int, int]], height: int, room: int
) -> None:
    rows = 200
    view = Viewport()
    for row, column in moves:
        view = view.moved(row, column, rows, widths, height, room)
        assert 0 <= view.row_position < rows
        assert view.top <= view.row_position < view.top + height
        assert 0 <= view.top <= max(0, rows - height)
        assert view.left <= view.column < len(widths)
        used = sum(widths[view.left : view.column + 1]) + GAP_CELLS * (view.column - view.left)
        assert used <= room or view.left == view.column
        assert view.left <= leftmost(widths, len(widths) - 1, room)  # no room stays empty beside hidden columns
        view = view.scrolled(7, rows, height)
        assert view.top <= view.row_position < view.top + height


def test_columns_on_screen_and_under_the_mouse() -> None:
    widths = [5, 10, 8]
    assert shown_columns(widths, 0, 20) == [(0, 0, 5), (1, 7, 10), (2, 19, 1)]
    assert [column_at(widths, 0, x, 40) for x in (0, 6, 7, 18, 26, 29)] == [0, 0, 1, 1, 2, None]


def test_an_empty_table_has_a_viewport_too() -> None:
    assert Viewport(3, 2).moved(5, 5, 0, [], 10, 50) == Viewport(0, 0, 0, 0)


def test_numbers_stand_on_a_common_decimal_place() -> None:
    cells = ["1.5", "12", None, "-0.125", "1e+300"]
    assert most_decimals(cells) == 3
    shown = shown_cells(GridColumn("n", "number", 1, 0), cells)
    assert [text for text, cell in zip(shown, cells, strict=True) if cell] == ["1.5  ", "12    ", "-0.125", "1e+300"]


def test_widths_come_from_heads_and_cells() -> None:
    column = GridColumn("moisture_pct", "number", 31, 30, sort=2, restricted=True)
    assert head_width(column) == len("moisture_pct") + 2
    assert cells_width(column, ["1.25", "12", None]) == 5
    assert cells_width(GridColumn("note", "text", 1, 0), ["x" * 99]) == 34
