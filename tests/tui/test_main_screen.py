"""What the main screen shows and does, driven in process: lines, grid, gauge, prompt, offcut, cards."""

from __future__ import annotations

from pathlib import Path

import pytest
from textual import events

from tui.driving import Driven, drive


def row_of(screen: str, text: str) -> str:
    """Return the line of the screen a text stands in."""
    return next(line for line in screen.splitlines() if text in line)


def test_the_source_is_there_with_counts_gauge_and_keys(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        screen = await app.until("7,650 rows × 71 columns", "no lines yet", "distinct")
        assert "yard_2031.csv" in row_of(screen, "YARD CUT")
        assert "7,650" in row_of(screen, "source  yard_2031.csv")
        assert "ticket  text 1" in screen
        assert "the source" in screen
        assert "w write" in screen
        assert "00000-31" in row_of(screen, "  1      1 ")

    drive(yard / "yard_2031.csv", steps)


def test_a_line_takes_its_rows_and_undo_gives_them_back(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("drop bay = 'ALL BAYS'", "would leave 7,400 of 7,650 · takes 250")
        screen = await app.until("1 drop    bay = 'ALL BAYS'", "−250", "as of line 1")
        assert "7,400" in row_of(screen, "1 drop")
        assert "list not saved" in screen
        await app.press("u")
        await app.until("took the last edit back", "no lines yet", "the source")
        await app.press("U")
        await app.until("did it again", "1 drop    bay = 'ALL BAYS'")

    drive(yard / "yard_2031.csv", steps)


def test_the_table_is_as_of_the_selected_line(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("keep grade = 'A'")
        await app.line("draw first 10")
        await app.until("as of line 2", "10 values")
        await app.press("tab")
        await app.until("Del delete", "line 2 in full")
        await app.press("up")
        screen = await app.until("as of line 1", "line 1 in full")
        assert "10 values" not in screen
        await app.press("home")
        await app.until("the source as it was read", "7,400 values")
        await app.press("end", "x")
        await app.until("off")
        await app.press("x", "delete")
        await app.until("took out: draw first 10")

    drive(yard / "yard_2031.csv", steps)


def test_rows_a_line_would_take_are_hatched_and_the_offcut_has_reasons(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("w")
        await app.type("keep species = 'yew'")
        screen = await app.until("would leave", "(as line 1)")
        assert "╱  " in screen
        await app.press("f5")
        await app.until("╱  ", gone=True)
        await app.press("enter")
        await app.until("1 keep    species = 'yew'")
        await app.press("o")
        await app.until("offcut of line 1", "why it is here", "species is")
        await app.press("escape")
        await app.until("why it is here", gone=True)

    drive(yard / "yard_2031.csv", steps)


def test_one_key_on_a_cell_writes_a_line_and_editing_keeps_its_place(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("right", "full_stop")
        await app.until("1 keep    species = 'ash'")
        await app.press("u")
        await app.until("no lines yet")
        await app.press("e")
        await app.until("cut ▸ keep species = 'ash'")
        await app.press("escape")
        await app.until("cut ▸", gone=True)
        await app.line("drop bay = 'ALL BAYS'")
        await app.line("keep grade = 'A'")
        await app.press("tab", "up", "e")
        await app.until("cut ▸ drop bay = 'ALL BAYS'")
        await app.press("escape")
        await app.until("cut ▸", gone=True)
        await app.press("comma")
        await app.until("1 drop")

    drive(yard / "yard_2031.csv", steps)


def test_a_mistake_is_named_and_mended(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("w")
        await app.type("keep grad == 'A'")
        await app.until("F2 writes  keep grade = 'A'")
        await app.press("f2")
        await app.until("cut ▸ keep grade = 'A'", "would leave")
        await app.press("enter")
        await app.until("1!keep    grade = 'A'")

    drive(yard / "yard_2031.csv", steps)


def test_the_cards_open_and_go_away(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        for key, title in (
            ("question_mark", "find what to do"),
            ("i", "source"),
            ("p", "all columns, the source"),
            ("f", "row 1, 1 in the source"),
        ):
            await app.press(key)
            await app.until(f"{title} ")
            await app.press("escape")
            await app.until("(i tells all)")
        await app.press("l")
        await app.until("no lines yet", gone=True)
        await app.press("l")
        await app.until("no lines yet")

    drive(yard / "yard_2031.csv", steps)


@pytest.mark.long
def test_going_to_a_column_and_saving_are_asked_in_the_prompts_place(yard: Path, tmp_path: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("g")
        await app.type("price")
        await app.until("the column price_per_m3")
        await app.press("enter")
        await app.until("price_per_m3  integer")
        await app.line("draw first 7")
        await app.until("as of line 1")
        await app.press("ctrl+s")
        await app.until("save slice ▸", "writes 7 rows and 71 columns as csv")
        await app.press("ctrl+u")
        await app.type(str(tmp_path / "seven.csv"))
        await app.until("seven.csv", "writes 7 rows")
        await app.press("enter")
        await app.until("7 rows read back")

    drive(yard / "yard_2031.csv", steps)
    assert len((tmp_path / "seven.csv").read_text().splitlines()) == 8


@pytest.mark.long
def test_list_and_table_take_turns_on_a_small_terminal(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows", "ticket")
        await app.line("drop bay = 'ALL BAYS'")
        await app.press("tab")
        await app.until("1 drop    bay = 'ALL BAYS'", "7,400")
        await app.press("tab")
        await app.until("1 drop", gone=True)

    drive(yard / "yard_2031.csv", steps, size=(80, 24))


def test_a_prefilled_path_gives_way_to_typing_unless_a_cursor_key_comes_first(yard: Path, tmp_path: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("ctrl+s")
        await app.until("save slice ▸ yard_2031-slice.csv")
        await app.type("other.csv")
        assert "yard_2031-slice" not in await app.until("save slice ▸ other.csv")
        await app.press("escape", "ctrl+s")
        await app.until("save slice ▸ yard_2031-slice.csv")
        await app.press("end")
        await app.type(".parquet")
        await app.until("save slice ▸ yard_2031-slice.csv.parquet")

    drive(yard / "yard_2031.csv", steps)


@pytest.mark.long
def test_what_can_be_no_path_is_said_and_nothing_ends(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        for key, ending in (("ctrl+s", ".csv"), ("f4", ".cut")):
            for text, said in (
                ("~d/x" + ending, "~d is the home of nobody here"), ("x" * 300 + ending, "no file has a name this long"),
                ("a\x00b" + ending, "a path holds no zero byte"), ("\ud800" + ending, "a path holds no lone surrogate"),
            ):  # fmt: skip
                await app.press(key)
                await app.until("save ")
                app.app.dispatcher.take(events.Paste(text))  # type: ignore[attr-defined]
                await app.until(said)
                await app.press("tab", "enter", "f5")
                await app.until(said)
                await app.press("escape")
                await app.until("w write")

    drive(yard / "yard_2031.csv", steps)


@pytest.mark.long
def test_the_focus_goes_back_to_where_a_line_was_begun_and_silent_keys_say_why(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("drop bay = 'ALL BAYS'")
        await app.press("tab", "e")
        await app.until("cut ▸ drop bay", "Enter cut")
        await app.press("f2")
        await app.until("nothing is wrong here")
        await app.press("escape")
        await app.until(" list  w write")
        await app.press("backspace")
        await app.until("took out: drop bay = 'ALL BAYS'", "no lines yet")
        await app.press("delete")
        await app.until("that is the source: select a line of the list")
        await app.press("right_square_bracket")
        await app.until("the list has one cut")
        await app.press("tab", "o")
        await app.until("that is the source")
        await app.press("w")
        await app.type("keep origin = nowhere")
        await app.until("there is no column nowhere")
        await app.press("f2")
        await app.until("no mend is likely enough to offer", "there is no column nowhere")

    drive(yard / "yard_2031.csv", steps)


def test_going_to_a_column_steps_through_those_that_match(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("g")
        await app.type("kiln")
        await app.until("the column kiln_in", "(1 of 3; ↓ the next)")
        await app.press("down")
        await app.until("the column kiln_out", "(2 of 3")
        await app.press("up", "up")
        await app.until("the column kiln_days", "(3 of 3")
        await app.press("enter")
        await app.until("kiln_days  integer 32")

    drive(yard / "yard_2031.csv", steps)


@pytest.mark.long
def test_when_few_columns_are_left_all_that_fit_are_seen(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("end")
        await app.until("label_colour")
        await app.line("columns ticket, species AS wood, label_colour", "3 columns")
        screen = await app.until("as of line 1")
        head = screen.splitlines()[1]
        assert all(name in head for name in ("ticket", "wood", "label_colour"))
        assert "label_colour  text 71" in screen

    drive(yard / "yard_2031.csv", steps)


@pytest.mark.long
def test_a_made_column_is_there_like_any_other(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.line("make worth = ABS(volume_m3 * price_per_m3)", "leaves all 7,650 rows, 72 columns")
        await app.press("end")
        await app.until("worth  made number 72  as of line 1", "least")
        await app.line("keep worth > 900", "would leave")
        await app.line("order worth DESC", "puts")
        screen = await app.until("worth1↓╱")
        assert "worth  made number 72  as of line 3" in screen
        await app.press("tab", "up", "o")
        await app.until("worth is", "not > 900")

    drive(yard / "yard_2031.csv", steps)


def test_the_form_being_written_opens_in_help(yard: Path) -> None:
    async def steps(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        await app.press("w")
        await app.type("draw ")
        await app.press("f7")
        await app.until("find what to do", "draw random 500")
        await app.press("end", "home", "escape")
        await app.until("find what to do", gone=True)
        await app.until("cut ▸ draw")

    drive(yard / "yard_2031.csv", steps)
