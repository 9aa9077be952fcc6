"""Orders and draws in the app: seen while written, nudged, their groups, the rest as a cut of its own."""

from __future__ import annotations

import csv
from pathlib import Path
from random import Random

import pytest

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    """300 rows: 200 oak, 90 ash, 6 Oak, 4 yew; prices fall."""
    path = tmp_path / "packs.csv"
    with open(path, "w", newline="") as file:
        writer = csv.writer(file, lineterminator="\n")
        writer.writerow(["ticket", "species", "price"])
        for row in range(300):
            species = "yew" if row % 75 == 1 else "Oak" if row % 50 == 2 else "ash" if row % 10 < 3 else "oak"
            writer.writerow([f"{row:05}-31", species, 1000 - row // 2])
    return path


def selected_line(app: Driven) -> int:
    selected: int = app.app.screen_stack[0].stage.desk.now.selected  # type: ignore[attr-defined]
    return selected


def lines(app: Driven) -> list[str]:
    return [line.line.text for line in app.app._main.stage.desk.now.lines]  # type: ignore[attr-defined]


def test_an_order_and_a_draw_are_seen_while_they_are_written(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.press("w")
        await app.type("order price")
        await app.until("puts 300 rows in order", "300 rows are still tied", "1    299 00298-31")
        await app.press("f5")
        await app.until("1      1 00000-31")
        await app.press("f5")
        await app.until("1    299 00298-31")
        await app.press("escape", "w")
        await app.type("draw first 9")
        await app.until("would leave 9 of 300")
        for _ in range(2):
            await app.press("f10")
        await app.until("draw first 11", "would leave 11 of 300")
        await app.press("ctrl+down")
        await app.until("would leave 10 of 300")
        await app.press("enter")
        await app.until("10 rows left")

    drive(packs, steps)


@pytest.mark.long
def test_before_and_after_an_order_at_the_row_under_the_cursor(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("order species, price DESC, ticket", "no two rows are equal on all 3 keys")
        await app.until("line 1 in full", "no two rows are equal")
        await app.press("end", "home", "down", "o")
        await app.until("before line 1")
        grid = app.app.screen.stage.grid  # type: ignore[attr-defined]
        assert grid.cursor_cell()[0] == "00052-31"
        await app.press("o")
        await app.until("before line 1", gone=True)
        assert grid.cursor_cell()[0] == "00052-31"
        assert grid.viewport.row_position == 1
        await app.line("order ticket, price")
        await app.until("price never decides: no rows are equal")

    drive(packs, steps)


def test_a_draw_is_nudged_drawn_again_and_taken_back_as_one_edit(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.press("d")
        await app.until("cut ▸ draw random 100")
        await app.press("ctrl+u")
        await app.type("draw random 5 per species seed 3")
        await app.until("would leave 19", "groups differ only in capitals or blanks: 'oak', 'Oak'")
        await app.press("enter")
        await app.until("19 rows left")
        await app.press("d")
        await app.until("there", "yew", "! short of 1", "balance", "the whole")
        await app.press_quickly("plus", "plus", "plus", "minus")
        await app.until("draw random 7 per species seed 3", "! short of 3", "300 → 24 rows")
        await app.press("n")
        await app.until("drawn again with seed 4", "seed 4")
        await app.press("asterisk")
        await app.until("draw random 8 per species seed 4")
        await app.press("u")
        await app.until("draw random 5 per species seed 3", "took the last edit back")
        await app.press("escape")
        assert lines(app) == ["draw random 5 per species seed 3"]
        await app.press("tab", "plus", "plus", "minus")
        await app.until("22 rows left")
        assert lines(app) == ["draw random 6 per species seed 3"]

    drive(packs, steps)


@pytest.mark.long
@pytest.mark.parametrize("seed", some(range(3), 1))
def test_nudges_change_their_line_and_nothing_beside_it(packs: Path, seed: int) -> None:
    """Several are one edit: whatever stands between them, and wherever they lead back to, no other edit is taken back."""
    texts = ["keep price > 3", "draw first 200", "draw first 200", "draw random 41 seed 3"]
    rng = Random(seed)

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        for text in texts:
            await app.line(text)
        await app.press("tab")
        for _ in range(60 if IS_LONG else 20):
            key = rng.choice(["plus", "minus", "plus", "minus", "up", "down", "x", "d"])
            before, selected = lines(app), selected_line(app)
            if key == "d" and selected < 2:
                continue
            await app.press_quickly(key)
            if key == "d":
                await app.until("balance" if "off" not in before[selected] else "draw")
                await app.press_quickly(*rng.choices(["left", "right", "n"], k=3), "escape")
            after = lines(app)
            assert len(after) == len(before)
            assert [at for at in range(4) if after[at] != before[at]] in ([], [selected])
        for _ in range(90):
            await app.press_quickly("u")
            if len(lines(app)) < len(texts):
                break
            last = lines(app)
        assert last == texts

    drive(packs, steps)


@pytest.mark.long
def test_the_rest_is_a_cut_of_its_own_apart_from_the_first(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("draw random 120 seed 8", "would leave 120")
        await app.line("save 'first.csv'", "leaves all")
        await app.press("tab", "up", "d")
        await app.until("300 → 120 rows")
        await app.press("m")
        await app.until("(2 of 2)", "180 rows left")
        assert lines(app) == ["draw random 120 seed 8 remainder"]
        await app.press("left_square_bracket")
        await app.until("(1 of 2)", "120 rows left")
        assert lines(app) == ["draw random 120 seed 8", "save 'first.csv'"]

    drive(packs, steps)


WRONG_BY_ROWS = [
    ("draw random 3 weighted by price - 900 seed 1", "weights are zero or more", "keep price > 900"),
    ("draw stratified per species sizes 'yew' 2 seed 1", "there is no group 'yew'", "off keep species = 'oak'"),
    ("draw stratified 9 per species at least 3 each seed 1", "3 from each of 4 groups", "keep species = 'oak'"),
]
"""A line, what is said where its rows make no sense of it, and a line above it with which they do."""


@pytest.mark.long
@pytest.mark.few(1)
@pytest.mark.parametrize(("text", "said", "above"), WRONG_BY_ROWS)
def test_what_only_the_rows_show_to_be_wrong_is_wrong_on_the_list(
    packs: Path, text: str, said: str, above: str
) -> None:
    turned = above.removeprefix("off ") if above.startswith("off ") else f"off {above}"

    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line(above, "(as line 1)")
        await app.line(text, "would leave")
        await app.line("order price", "in order")
        await app.press("tab", "home", "down")
        await app.press("x")  # the line above is turned: off becomes on, and on off
        await app.until(said, "wrong", "waits")
        await app.press("down", "d")
        await app.until(f"{text}   {said[:20]}")
        await app.press("escape", "down")
        await app.settled()
        assert "counting" not in app.screen()
        assert lines(app)[0] == turned
        await app.press("u")
        await app.until("wrong", gone=True)
        await app.until("waits", gone=True)

    drive(packs, steps)


@pytest.mark.long
def test_a_draw_that_its_rows_make_no_sense_of_is_not_entered(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.press("w")
        await app.type("draw stratified per species sizes 'elm' 2 seed 1")
        await app.until("there is no group 'elm' among the rows here; there are")
        await app.press("enter")
        await app.settled()
        assert "cut ▸" in app.screen()
        assert lines(app) == []
        await app.press("escape")
        await app.line("draw first 3", "would leave 3")
        await app.until("3 rows left")

    drive(packs, steps)


@pytest.mark.long
def test_keys_on_a_draw_of_nothing_and_of_a_table_without_rows(tmp_path: Path) -> None:
    path = tmp_path / "none.csv"
    path.write_text("a,b\n")

    async def steps(app: Driven) -> None:
        await app.until("none.csv")
        for text in ("draw random 3 seed 1", "draw stratified 3 per a seed 1", "draw top 2 by b", "order a, b"):
            await app.line(text, "(as line")
            await app.press_quickly(
                "d", "plus", "n", "asterisk", "slash", "pagedown", "down", "end", "u", "escape", "o", "o"
            )
            await app.settled()
            await app.press("escape")
        await app.until("none.csv")

    drive(path, steps)


@pytest.mark.long
def test_a_picture_of_the_dearest_is_nudged_labelled_and_saved(packs: Path, tmp_path: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("draw top 3 by price", "would leave 3")
        await app.press("P")
        await app.until("largest 3 by price", "00000-31", "1000", "save as SVG or PDF")
        await app.press_quickly("plus", "plus")
        await app.until("largest 5 by price")
        await app.press("l")
        await app.until("labelled by species", "oak")
        await app.press("L")
        await app.until("column of the picture ▸", "columns, by part of its name")
        await app.type("absent")
        await app.until("no column has that in its name")
        await app.press("ctrl+u")
        await app.type("pri")
        await app.until("the column price")
        await app.press("enter")
        await app.until("largest 5 by price", "1000", "save as SVG or PDF")
        await app.press("s")
        await app.until("picture to ▸ largest_5_by_price.svg")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "dear.svg"))
        await app.until("writes the picture")
        await app.press("enter")
        await app.until("dear.svg: the picture")
        assert "largest 5 by price" in (tmp_path / "dear.svg").read_text()
        # on any other line it is the column under the cursor; of a draw by chance its balance
        await app.press("u", "u", "u", "right")
        await app.press("P")
        await app.until("species, the source", "oak", "yew")
        await app.press("l")
        await app.until("price, the source", "850 to below 860", "+ more", "- fewer")
        await app.press("plus")
        await app.until("850 to below 855", "narrower bars")
        await app.press_quickly("minus", "minus")
        await app.until("840 to below 860", "wider bars")
        await app.press(*["minus"] * 9)
        await app.until("the bars are as wide as they get")
        await app.press("l", "l", "l")
        await app.until("price, the source", "800 to below 1000")  # as they were left
        await app.press("l")
        await app.until("ticket, the source")
        assert "+ more" not in app.screen()
        await app.press("escape")
        await app.line("draw random 50 seed 3", "would leave 50")
        await app.press("P")
        await app.until("in the draw and in the whole", "the draw (50 rows)")
        await app.press("escape")

    drive(packs, steps)


@pytest.mark.long
def test_the_keys_of_an_order_are_a_sentence_and_moved_by_hand(packs: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("300 rows")
        await app.line("order price, species DESC", "300 rows in order")
        await app.press("tab", "r")
        await app.until(
            "first by price, low to high, missing last;",
            "then by species, last to first, missing last",
            "300",
            "still tied",
        )
        await app.press_quickly("semicolon", "space", "m")
        await app.until("first by species, last to first", "then by price, high to low, missing first")
        assert lines(app) == ["order species DESC, price DESC NULLS FIRST"]
        await app.press("a")
        await app.type("ticket NUMBER AWARE")
        await app.press("enter")
        await app.until("ticket (by the numbers in it)", "3 ticket")
        await app.press("home", "x")
        await app.until("first by price, high to low", "off")
        await app.press("delete")
        await app.until("2 ticket (by the numbers in it)")
        assert lines(app) == ["order price DESC NULLS FIRST, ticket NUMBER AWARE"]
        await app.press("delete", "delete")
        await app.until("Del on the list takes the line out")
        await app.press("a")
        await app.type("price +")
        await app.press("enter")
        await app.until("could stand here")
        await app.press("escape", "u", "escape")
        assert lines(app) == ["order price DESC NULLS FIRST, ticket NUMBER AWARE"]

    drive(packs, steps)


@pytest.mark.long
def test_a_row_drawn_twice_stands_twice_and_every_figure_counts_both(tmp_path: Path) -> None:
    """The gauge, the tree, the values, the offcut and the card of a draw are about all copies."""
    (tmp_path / "packs.csv").write_text(
        "ticket,species,boards\n" + "".join(f"{n:02}-31,{'oak' if n < 4 else 'ash'},{n}\n" for n in range(1, 6))
    )

    async def steps(app: Driven) -> None:
        await app.until("5 rows", "distinct")
        await app.press("w")
        await app.type("draw random 40 with replacement seed 3")
        await app.until("would leave 40 of 5 · 0 never drawn", "5 different rows", "40 values", "5 distinct")
        await app.press("enter")
        await app.until("40 rows left", "5 different rows")
        desk = app.app.screen_stack[0].stage.desk  # type: ignore[attr-defined]
        frame = desk.now.results[-1].frame
        oak = frame.page(0, 40, [1]).cells[0].count("oak")
        await app.line("keep species = 'oak'")
        await app.until(f"{oak} rows left", f"{oak} values", "3 distinct")
        await app.press("tab", "o")
        await app.until(f"offcut of line 2: {40 - oak} rows", "2 distinct")
        await app.press("o", "up", "d")
        await app.until("5 → 40 rows", "boards", "of the whole")
        assert "short" not in app.screen()
        await app.press("plus")
        await app.until("draw random 41", "5 → 41 rows")
        await app.press("m")
        await app.until("replacement seed 3 remainder", "−5")

    drive(tmp_path / "packs.csv", steps)


@pytest.mark.long
def test_a_top_is_labelled_by_what_tells_its_rows_apart_and_by_what_was_chosen(tmp_path: Path) -> None:
    path = tmp_path / "stock.csv"
    path.write_text("species,price,ticket,bay\noak,9,T1,\noak,8,T2,B2\nash,7,T3,B3\nash,1,T3,B4\n")

    async def steps(app: Driven) -> None:
        await app.until("4 rows")
        await app.line("draw top 3 by price", "would leave 3")
        await app.press("P")
        await app.until("largest 3 by price", "T1", "T3")
        await app.press("l")
        await app.until("labelled by bay", "B3", "no value")
        await app.press("escape", "tab", "plus")
        await app.until("draw    top 4 by price")
        await app.press("P")
        await app.until("largest 4 by price", "B4")

    drive(path, steps)
