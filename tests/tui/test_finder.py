"""Finding an action and doing it are one: Enter on what was found does it, from the table, a line, or a card."""

from __future__ import annotations

import random
from pathlib import Path

import pytest

from thoroughness import IS_LONG
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.sources.spec import SourceSpec
from yardcut.tui.finder.findable import entries
from yardcut.tui.finder.finder import FinderCard
from yardcut.tui.finder.leads import Lead
from yardcut.tui.widgets.footer import Footer


@pytest.fixture
def packs(tmp_path: Path) -> SourceSpec:
    write_packs(tmp_path / "packs.csv", 120, 4)
    return SourceSpec(("packs.csv",), (), tmp_path)


async def find(app: Driven, word: str, key: str = "question_mark") -> None:
    await app.press(key)
    await app.until("find what to do")
    await app.type(word)
    await app.until("Enter")
    await app.press("enter")
    await app.until("find what to do", gone=True)


@pytest.mark.long
def test_what_was_found_is_done_where_it_can_be_done(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("draw random 30 seed 1")
        await find(app, "undo")
        await app.until("no lines yet")
        await find(app, "redo")
        await app.until("random 30 seed 1")
        await app.press("tab", "end", "tab")
        await find(app, "switch off")  # an action of the list, found from the table
        await app.until(" list ")
        await app.until("120 rows left")
        await find(app, "switch off")
        await find(app, "price")  # a column
        await app.until("price  number", " table ")
        await find(app, "next seed")  # an action of a card that is not open: it is opened
        await app.until("Esc put away")
        await find(app, "next seed", "f3")  # and done there now
        await app.until("seed 2")
        assert len(app.app.screen_stack) == 2
        await find(app, "percentile", "f3")  # a line, from a card: the card goes away
        await app.until("cut ▸ tally QUANTILE(")
        assert len(app.app.screen_stack) == 1

    drive(packs, steps)


@pytest.mark.long
def test_while_a_line_is_written_a_function_goes_in_at_the_cursor(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("w")
        await app.type("make x = 1 + ")
        await find(app, "rounding", "f3")
        await app.type("price)")
        await app.until("cut ▸ make x = 1 + ROUND(price)")
        await find(app, "exclude", "f3")  # another line: what was being written comes back with a key
        await app.until("cut ▸ drop")
        await app.press("escape", "w", "up", "up")
        await app.until("make x = 1 + ROUND(price)")

    drive(packs, steps)


@pytest.mark.long
def test_a_condition_begins_with_the_column_under_the_cursor(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await find(app, "price")
        await find(app, "missing values")
        await app.until("cut ▸ keep price IS NULL")

    drive(packs, steps)


def test_nothing_is_done_for_a_word_alone_and_escape_changes_nothing(packs: SourceSpec) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.press("question_mark")
        await app.type("gauge")
        await app.press("enter")
        assert isinstance(app.app.screen, FinderCard)
        await app.press("escape")
        await app.until("no lines yet")
        assert len(app.app.screen_stack) == 1

    drive(packs, steps)


def test_everything_that_can_be_found_can_be_followed(packs: SourceSpec) -> None:
    """From the table, from a card and from a line: nothing breaks, and the way leads back."""

    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("draw random 30 seed 1")
        follow = app.app._main.parts._prompting.find.__self__._follow  # type: ignore[attr-defined]
        leads = list(dict.fromkeys(entry.lead for entry in entries() if entry.lead != Lead()))
        leads = [lead for lead in leads if lead.action not in ("leave", "stop", "editor")]
        chance = random.Random(5)
        chance.shuffle(leads)
        for lead in leads if IS_LONG else leads[:20]:
            begins = chance.choice([[], ["d"], ["w"], ["tab"], ["v"]])
            await app.press(*begins)
            follow(lead)
            await app.pause(0.03)
            app.end()
            for _ in range(6):
                await app.press("ctrl+g")
                if len(app.app.screen_stack) == 1 and app.app._main.stage.mode is None:  # type: ignore[attr-defined]
                    break
            assert len(app.app.screen_stack) == 1, lead
            assert app.app._main.stage.mode is None, lead  # type: ignore[attr-defined]

    drive(packs, steps)


@pytest.mark.few(1)
@pytest.mark.parametrize(
    "opens",
    [
        ["v"],
        ["enter"],
        ["C"],
        ["p"],
        ["i"],
        ["f"],
        ["h"],
        ["P"],
        ["colon"],
        ["d"],
        ["c"],
        ["question_mark"],
    ],
    ids=" ".join,
)
def test_every_key_in_the_footer_of_a_card_does_something_there(packs: SourceSpec, opens: list[str]) -> None:
    async def steps(app: Driven) -> None:
        await app.until("120 rows × 5 columns")
        await app.line("draw top 20 by price")
        await app.press("home", *opens)
        await app.settled()
        card = app.app.screen
        assert len(app.app.screen_stack) == 2
        shown = [action for _, _, action in card.query_one(Footer)._places]
        assert len(shown) >= 2
        last = app.screen().rstrip("\n").splitlines()[-1]
        assert all(action.hint.split()[0] in last for action in shown[:2]), last
        for action in shown:
            assert action.id in {**app.app._main.parts.calls, **card.calls}, action.id  # type: ignore[attr-defined]

    drive(packs, steps, size=(200, 47))
