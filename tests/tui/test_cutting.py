"""The cards with which rows are cut: at the cell, from the values, between bounds, as a tree; and what is gone."""

from __future__ import annotations

from pathlib import Path

import pytest

from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec


def _on(yard: Path, *steps: tuple[list[str], list[str]], start: str = "") -> None:
    """Press keys (a text in «…» is typed) and wait for texts, step by step."""

    async def go(app: Driven) -> None:
        await app.until("7,650 rows × 71 columns", "no lines yet")
        if start:
            await app.line(start)
        for keys, texts in steps:
            for key in keys:
                if key.startswith("«"):
                    await app.type(key[1:-1])
                else:
                    await app.press(key)
            await app.until(*texts)

    drive(yard / "yard_2031.csv", go)


@pytest.mark.long
def test_the_cut_card_offers_conditions_with_the_rows_of_each(yard: Path) -> None:
    _on(
        yard,
        (["right", "enter"], ["species is ash, the source", "this very value", "1,505"]),
        (["down", "delete"], ["drop    species <> 'ash'", "1,755"]),
        (["right", "enter"], ["or in line 1", "as of line 1"]),
        (["a"], ["1 drop", "origin = 'Upper", "(line 1; u takes it back)"]),
        (["u", "u"], ["no lines yet"]),
    )


@pytest.mark.long
def test_a_bound_is_taken_with_or_without_itself(yard: Path) -> None:
    _on(
        yard,
        (["g", "«knots»", "enter", "enter"], ["knots is 8", "at least this", "among the highest tenth"]),
        (["down"], ["rows of exactly 8: they count too; b changes that"]),
        (["b"], ["more than this", "knots > 8", "they do not count"]),
        (["enter"], ["1 keep    knots > 8"]),
        (["enter", "e"], ["cut ▸ keep knots = "]),
    )


def test_values_are_ticked_kept_and_gone_on_with(yard: Path) -> None:
    _on(
        yard,
        (["right", "v"], ["values of species, the source", "[ ] oak", "2,759", "! also 'oak ' 76"]),
        (["space", "down", "space"], ["2 ticked: keep leaves 4,264 of 7,650, drop 3,386"]),
        (["enter"], ["species IN ('ash',", "4,264"]),
        (["v"], ["the source", "[x] oak", "[x] ash", "2 ticked"]),
        (["slash", "«larch»", "enter", "space"], ["1 match", "3 ticked"]),
        (["escape", "enter"], ["'larch'", "4,264 → 5,145"]),
        (["v"], ["3 ticked"]),
        (["a", "a", "enter"], ["nothing is ticked: the line is gone"]),
    )


def test_values_that_differ_in_capitals_are_made_alike(yard: Path) -> None:
    _on(
        yard,
        (["right", "v"], ["F2 makes them alike: make species = LOWER(TRIM(species))"]),
        (["f2"], ["1 make    species =", "u takes it back"]),
        (["v"], ["values of species", "oak"]),
    )


def test_bounds_are_moved_over_the_distribution(yard: Path) -> None:
    _on(
        yard,
        (["g", "«moisture_pct»", "enter", "v"], ["moisture_pct from … to …", "nothing is restricted yet"]),
        (["right", "right", "tab", "left"], ["keep leaves", "from 8", "to 29"]),
        (["enter"], ["1 keep    moisture_pct BETWEEN", "8 AND 29"]),
        (["v", "v"], ["values of moisture_pct, as of line 1"]),
    )


def test_the_tree_and_the_line_say_the_same_after_every_edit(yard: Path) -> None:
    _on(
        yard,
        (["tab", "r"], ["line 1: keep what is true of", "all of", "grade = 'A'"]),
        (["down", "x"], ["keep off (species = 'oak') AND grade = 'A' AND knots < 9"]),
        (["x", "g"], ["keep (species = 'oak' OR grade = 'A') AND knots < 9", "any of"]),
        (["n"], ["keep NOT (species = 'oak' OR grade = 'A') AND knots < 9"]),
        (["d", "down", "delete"], ["keep grade = 'A' AND knots < 9"]),
        (["up", "a", "«bay = 'N-03'»"], ["the line would leave"]),
        (["enter"], ["keep grade = 'A' AND knots < 9 AND bay = 'N-03'"]),
        (["u"], ["took the last edit back"]),
        (["down", "down", "enter", "end", "backspace", "«5»", "enter"], ["keep grade = 'A' AND knots < 5"]),
        (["o"], ["gone because of knots < 5 alone", "why it is here"]),
        (["escape"], ["keep", "grade = 'A' AND knots"]),
        start="keep species = 'oak' AND grade = 'A' AND knots < 9",
    )


@pytest.mark.long
def test_why_nothing_is_left_and_the_nearest_bound(yard: Path) -> None:
    _on(
        yard,
        (
            ["y"],
            ["line 1 leaves 0 of 7,650", "price_per_m3 < 100: alone true of 0 rows", "the lowest price_per_m3 among"],
        ),
        (["down", "enter"], ["keep price_per_m3 <= 315 AND grade = 'A'   (line 1", "0 → 2"]),
        start="keep price_per_m3 < 100 AND grade = 'A'",
    )


def test_an_offcut_has_reasons_and_a_row_is_called_back(yard: Path) -> None:
    _on(
        yard,
        (["O"], ["line 1 removed", "not grade = 'A'", "no answer to species = 'oak'"]),
        (["enter"], ["gone for not", "why it is here"]),
        (["b"], ["let row 1 of the source through line 1", "this row alone", "leaves 376"]),
        (["end", "enter"], ["SOURCE_ROW = 1", "375 → 376"]),
        start="keep species = 'oak' AND grade = 'A'",
    )


def test_a_text_is_found_anywhere_and_kept(yard: Path) -> None:
    _on(
        yard,
        (["slash", "«shake»"], ["find ▸ shake", "127 rows: defect_note 127"]),
        (["enter", "n"], ["the next match, N the one before: 127 rows"]),
        (["slash", "f2"], ["ANY OF (all) CONTAINS", "127"]),
    )


@pytest.mark.long
def test_looking_in_another_order_leaves_the_cut_as_it_is(yard: Path) -> None:
    _on(
        yard,
        (["right", "s"], ["look    order species", "at work", "as looked at"]),
        (["s"], ["order species DESC"]),
        (["s"], ["in the cut's own order again"]),
        (["s", "S"], ["1 order   species", "first by species"]),
        (["w", "«look keep grade = 'A'»"], ["to look only: the cut stays as it is"]),
        (["enter"], ["look    keep grade = 'A'"]),
        (["k"], ["2!keep    grade = 'A'", "part of the cut now"]),
    )


def test_hints_offer_what_is_likely_meant(yard: Path) -> None:
    _on(
        yard,
        (
            ["w", "«keep species = 'LARCH'»"],
            ["no row that reaches the line has 'LARCH'", "F2 writes  keep species = 'larch'"],
        ),
        (["f2", "enter"], ["1 keep    species = 'larch'", "881"]),
        (["w", "«keep grade = 'A'»", "enter"], ["2!keep"]),
        (["tab", "h"], ["line 2 as it is likely meant", "IGNORING CASE"]),
        (["enter"], ["grade = 'A' IGNORING"]),
    )


@pytest.mark.long
def test_the_stroke_on_a_head_leads_to_the_line(yard: Path) -> None:
    _on(
        yard,
        (["w", "«keep knots < 9»", "enter"], ["2 keep"]),
        (["right", "L"], ["1 line look at species"]),
        (["left", "L"], ["no keep or drop looks at ticket"]),
        start="keep species = 'larch'",
    )


@pytest.mark.long
def test_an_offcut_is_saved_like_any_slice(yard: Path, tmp_path: Path) -> None:
    target = tmp_path / "gone.csv"
    _on(
        yard,
        (["o"], ["why it is here"]),
        (["right", "v", "space", "enter"], ["these rows are off already"]),
        (["escape", "ctrl+s"], ["save these rows ▸", "writes 250 rows and 71 columns"]),
        ([f"«{target}»", "enter"], ["250 rows read back"]),
        start="drop bay = 'ALL BAYS'",
    )
    assert len(target.read_text(encoding="utf-8").splitlines()) >= 251


def test_values_are_arranged_and_ordered_by(yard: Path) -> None:
    _on(
        yard,
        (["g", "«shift»", "enter", "v"], ["values of shift", "[ ] early"]),
        (["end", "up", "comma", "comma"], ["o orders the rows in this sequence"]),
        (["o"], ["1 order   shift IN SEQUENCE", "first by shift, in a sequence of its own"]),
    )


@pytest.mark.long
def test_a_total_row_among_the_values_is_told(yard: Path) -> None:
    _on(
        yard,
        (["g", "«bay»", "enter", "v"], ["values of bay", "ALL BAYS looks like totals: the sum of its boards"]),
        (["space", "delete"], ["1 drop    bay = 'ALL BAYS'", "7,400"]),
    )


def test_reasons_take_a_third_and_stand_in_full_below(tmp_path: Path) -> None:
    write_packs(tmp_path / "packs.csv", 120, 4)

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("keep boards > 20 AND price > 300 AND grade = 'A' AND species = 'oak' AND ticket > '00050-31'")
        await app.press("tab", "end", "o", "tab")
        screen = await app.until("why it is here", "why  ")
        grid = app.app._main.stage.grid  # type: ignore[attr-defined]
        assert grid._reason_cells <= grid.content_size.width // 3
        below = next(line for line in screen.splitlines() if "why  " in line)
        assert "not > 20" in below or "not > '00050-31'" in below

    drive(SourceSpec(("packs.csv",), (), tmp_path), steps)


@pytest.mark.long
def test_the_tree_has_the_counts_of_now_when_a_line_above_comes_back(tmp_path: Path) -> None:
    """The line of the card reads as before, and other rows reach it."""
    path = tmp_path / "packs.csv"
    path.write_text("boards,price\n" + "".join(f"{row},{row % 7}\n" for row in range(1000)))

    async def steps(app: Driven) -> None:
        await app.until("1,000 rows × 2 columns")
        await app.line("keep boards < 100")
        await app.line("keep price > 2 AND boards >= 50")
        await app.press("tab", "up", "x")
        await app.until("off")
        await app.press("down", "r")
        passing = sum(row % 7 > 2 for row in range(1000))
        card = (await app.until("line 2: keep what is true of", f"{passing}")).split("line 2: keep what")[1]
        assert f"{passing}" in card
        await app.press("u")
        passing = sum(row % 7 > 2 for row in range(100))
        for _ in range(100):
            await app.pause(0.03)
            card = app.screen().split("line 2: keep what")[1]
            if f" {passing} " in card and " 50 " in card:
                break
        assert f" {passing} " in card
        assert " 50 " in card

    drive(path, steps)
