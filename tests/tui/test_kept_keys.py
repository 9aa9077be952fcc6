"""Keys typed while something is being put together are carried out when it is there: none is kept for good."""

from __future__ import annotations

import asyncio
import dataclasses
import threading
import time
from pathlib import Path
from random import Random
from typing import Any

import pytest
from textual import events
from textual.message import Message
from textual.widgets import Input, OptionList

from thoroughness import IS_LONG, some
from tui.driving import Driven, drive
from tui.plain_truth import write_packs
from yardcut.core.run.executing.executor import Executor
from yardcut.core.run.explaining import reason_groups
from yardcut.tui.cards.card import Card


@pytest.mark.few(2)
@pytest.mark.parametrize(
    ("opens", "then"),
    some(
        zip(
            ["i", "p", "f", "question_mark"] * 3,
            [["down", "down"], ["escape", "ctrl+g"], ["x", "escape", "escape"]] * 4,
            strict=True,
        ),
        4,
    ),
    ids=str,
)
def test_keys_right_behind_the_one_that_opens_a_card(tmp_path: Path, opens: str, then: list[str]) -> None:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        dispatcher = app.app.dispatcher  # type: ignore[attr-defined]
        for key in [opens, *then]:  # all within one turn of the loop
            dispatcher.take(events.Key(key, key if len(key) == 1 else None))
        await app.settled()
        assert not dispatcher._kept
        assert isinstance(app.app.screen, Card) is ("escape" not in then), app.screen()
        for _ in range(3):
            await app.press("escape")
        await app.press("w")
        await app.until("cut ▸")

    drive(path, steps)


@pytest.mark.parametrize("opens", some(["i", "p", "f", "question_mark"], 2))
def test_a_card_that_is_closed_already_closes_nothing_else(tmp_path: Path, opens: str) -> None:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.press(opens)
        await app.settled()
        card = app.app.screen
        assert isinstance(card, Card)
        for _ in range(3):
            card.dismiss(None)
        await app.press("question_mark")
        await app.until("find what to do")
        card.dismiss(None)
        await app.settled()
        assert "find what to do" in app.screen()
        assert len(app.app.screen_stack) == 2

    drive(path, steps)


@pytest.mark.long
@pytest.mark.parametrize("opens", some([["tab", "r"], ["v"], ["i"], ["p"], ["h"], ["question_mark"]], 1), ids=str)
def test_news_of_the_parts_of_a_card_that_is_closed_is_let_go(tmp_path: Path, opens: list[str]) -> None:
    write_packs(tmp_path / "packs.csv", 300, 5)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.line("keep boards >= 20")
        await app.press(*opens)
        await app.settled()
        card = app.app.screen
        assert isinstance(card, Card)
        news: list[Message] = [Input.Changed(field, "a") for field in card.query(Input)]
        news += [Input.Submitted(field, "a") for field in card.query(Input)]
        for choices in card.query(OptionList):
            if choices.option_count:
                option = choices.get_option_at_index(0)
                news += [kind(choices, option, 0) for kind in (OptionList.OptionHighlighted, OptionList.OptionSelected)]
        assert news
        await card.dismiss(None)
        await app.settled()
        for message in news:
            assert message.control is not None
            await card._dispatch_message(message.set_sender(message.control))
        await app.settled()
        assert len(app.app.screen_stack) == 1

    drive(tmp_path / "packs.csv", steps)


@pytest.mark.long
@pytest.mark.parametrize(("seconds", "seen"), [(0.4, "gone for"), (2.5, "line 1 removed")])
def test_keys_behind_one_whose_card_is_fetched_first_are_for_the_card(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, seconds: float, seen: str
) -> None:
    write_packs(tmp_path / "packs.csv", 300, 5)
    groups = reason_groups.reason_groups

    def late(*given: Any) -> Any:
        time.sleep(seconds)
        return groups(*given)

    monkeypatch.setattr(reason_groups, "reason_groups", late)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.line("keep boards >= 20")
        await app.until("rows left")
        await app.press_quickly("O", "enter")  # when it takes long, Enter goes back to the table and the app to work
        await app.until(seen)
        await app.press("escape", "escape", "w")
        await app.until("cut ▸")

    drive(tmp_path / "packs.csv", steps)


@pytest.mark.long
@pytest.mark.parametrize("seed", [1])
@pytest.mark.parametrize(
    ("opens", "alphabet"),
    some(
        [
            (["v"], ["slash", "a", "o", "enter", "escape", "space", "i", "down", "backspace"]),
            (["tab", "r"], ["e", "a", "1", "enter", "escape", "down", "backspace", "n"]),
            (["f"], ["slash", "a", "g", "enter", "escape", "down", "backspace"]),
            (["c"], ["slash", "a", "space", "enter", "escape", "down", "r", "backspace"]),
            (["colon", "enter"], ["slash", "a", "enter", "space", "escape", "down", "backspace"]),
        ],
        1,
    ),
    ids=["values", "tree", "row", "rack", "dial values"][: None if IS_LONG else 1],
)
def test_keys_at_once_do_what_the_same_keys_do_one_by_one(
    tmp_path: Path, opens: list[str], alphabet: list[str], seed: int
) -> None:
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)
    random = Random(seed)
    keys = [alphabet[0], *(random.choice(alphabet) for _ in range(4))]
    states: list[object] = []

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        if "colon" in opens:
            await app.line("dial wood = 'oak' from column species", "the dial wood holds")
        wood = ":wood" if "colon" in opens else "'oak'"
        await app.line(f"keep species = {wood} AND (grade = 'A' OR boards > 20)")
        await app.press(*opens)
        await app.settled()
        for key in keys:
            character = {"space": " ", "slash": "/"}.get(key, key if len(key) == 1 else None)
            app.app.dispatcher.take(events.Key(key, character))  # type: ignore[attr-defined]
            if not states:
                await app.pause(0.06)
        await app.settled()
        screen = app.app.screen
        fields = [field.value for field in screen.query(Input)]
        marked = [each.highlighted for each in screen.query(OptionList)]
        states.append((type(screen), screen.focused and type(screen.focused), fields, marked))

    drive(path, steps)
    drive(path, steps)
    assert states[0] == states[1], keys


@pytest.mark.parametrize("moved", some([0, 1, 3], 2))
def test_news_of_values_leaves_the_mark_on_the_value_it_was_on(tmp_path: Path, moved: int) -> None:
    """Counts that come later sort the values otherwise; what is marked, and what is typed, stays what the keys are for."""
    (tmp_path / "woods.csv").write_text("wood\n" + "".join(f"{name}\n" * count for name, count in WOODS.items()))

    async def steps(app: Driven) -> None:
        await app.until(f"{sum(WOODS.values())} rows", "distinct")
        await app.press("v")
        await app.until("5 values")
        card = app.app.screen
        found = card._found  # type: ignore[attr-defined]
        for part in ("", "e"):
            names = [name for name in WOODS if part in name]
            first = dataclasses.replace(found, values=tuple((name, 9 - at) for at, name in enumerate(sorted(names))))
            if part:
                await app.press("slash")
                card._field.insert_text_at_cursor(part)  # type: ignore[attr-defined]
            card._began(first)  # type: ignore[attr-defined]
            for _ in range(moved):
                app.app.dispatcher.take(events.Key("down", None))  # type: ignore[attr-defined]
            marked = card._shown[card._marked][0]  # type: ignore[attr-defined]
            card._counted(found)  # type: ignore[attr-defined]
            assert card._shown[card._marked][0] == marked  # type: ignore[attr-defined]
            assert part in marked

    drive(tmp_path / "woods.csv", steps)


WOODS = {"ash": 2, "beech": 30, "elm": 4, "larch": 50, "oak": 6}


@pytest.mark.long
def test_saving_waits_for_the_rows_that_are_being_counted(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """What is saved is what the last line leaves; a hand that is ahead of the counts is not sent away."""
    monkeypatch.chdir(tmp_path)
    path = tmp_path / "t.csv"
    path.write_text("ticket,boards\n" + "".join(f"{n:03},{n}\n" for n in range(40)))
    going_on = threading.Event()
    counted = Executor.run_bound

    def slow(*given: Any, **named: Any) -> Any:
        going_on.wait(20)
        yield from counted(*given, **named)

    async def steps(app: Driven) -> None:
        await app.until("40 rows")
        while app.app.screen_stack[0].stage.desk is None:  # type: ignore[attr-defined]
            await app.pause(0.05)
        await app.settled()
        monkeypatch.setattr(Executor, "run_bound", slow)
        await app.press("full_stop", "ctrl+s")
        assert "save slice ▸" not in await app.settled()
        going_on.set()
        await app.until("save slice ▸", "writes 1 row")
        await app.press("escape")
        going_on.clear()
        await app.press("delete", "ctrl+s", "escape", "question_mark")  # Escape lets the key go that waits
        going_on.set()
        assert "save slice ▸" not in await app.until("find what to do")

    drive(path, steps)


@pytest.mark.few(2)
@pytest.mark.parametrize("opens", ["i", "p", "f", "h", "v", "question_mark"])
def test_a_card_that_is_closed_in_the_turn_of_another_widget_is_gone(tmp_path: Path, opens: str) -> None:
    """Keys that were kept are carried out whenever something comes to be ready: in a turn of the screen below, say."""
    path = tmp_path / "packs.csv"
    write_packs(path, 300, 5)

    async def steps(app: Driven) -> None:
        await app.until("300 rows", "distinct")
        await app.press(opens)
        await app.settled()
        card, main = app.app.screen, app.app._main  # type: ignore[attr-defined]
        assert isinstance(card, Card)
        main.call_later(card.put_away)
        for _ in range(100):
            await asyncio.sleep(0.02)
            if not card.is_attached and not card.is_running:
                break
        assert not card.is_running
        app.app.dispatcher.take(events.Key("w", "w"))  # type: ignore[attr-defined]
        await app.until("cut ▸")

    drive(path, steps)
