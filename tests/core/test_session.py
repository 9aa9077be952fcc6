from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, rule

from yardcut.core.cutlist.file import list_text, parse_list
from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session

TEXTS = (
    "keep grade = 'A'",
    "drop bay = 'ALL BAYS'",
    "order price_per_m3 DESC",
    "draw first 3",
    "columns ticket, grade",
)


class Editing(RuleBasedStateMachine):
    """Edits, undo and redo against the plainest model there is: a list of states and a place in it."""

    @initialize()
    def begin(self) -> None:
        self.session = Session(Path("yard_2031.csv"))
        self.states: list[list[str]] = [[]]
        self.place = 0

    def texts(self) -> list[str]:
        return list(self.states[self.place])

    def edited(self, texts: list[str]) -> None:
        if texts == self.texts():
            return  # nothing changed: nothing to take back
        del self.states[self.place + 1 :]
        self.states.append(texts)
        self.place += 1

    @rule(text=st.sampled_from(TEXTS), at=st.integers(-1, 6))
    def enter(self, text: str, at: int) -> None:
        texts = self.texts()
        at = min(at, len(texts) - 1)
        index = self.session.edits.enter(text, at)
        texts.insert(index, text)
        assert index == at + 1
        self.edited(texts)

    @rule(at=st.integers(0, 6))
    def delete(self, at: int) -> None:
        texts = self.texts()
        if at < len(texts):
            self.session.edits.delete_line(at)
            del texts[at]
            self.edited(texts)

    @rule(at=st.integers(0, 6), text=st.sampled_from(TEXTS))
    def rewrite(self, at: int, text: str) -> None:
        texts = self.texts()
        if at < len(texts):
            self.session.edits.rewrite(at, text)
            texts[at] = text
            self.edited(texts)

    @rule(at=st.integers(0, 6), by=st.sampled_from([-1, 1]))
    def move(self, at: int, by: int) -> None:
        texts = self.texts()
        if at < len(texts):
            to = self.session.edits.move_line(at, by)
            if to != at:
                texts.insert(to, texts.pop(at))
                self.edited(texts)

    @rule()
    def undo(self) -> None:
        assert self.session.edits.undo() == (self.place > 0)
        self.place = max(0, self.place - 1)

    @rule()
    def redo(self) -> None:
        assert self.session.edits.redo() == (self.place + 1 < len(self.states))
        self.place = min(len(self.states) - 1, self.place + 1)

    @invariant()
    def lines_are_those_of_the_model(self) -> None:
        assert [line.text for line in self.session.cut.lines] == self.states[self.place]

    @invariant()
    def the_list_can_be_read_back(self) -> None:
        text = list_text(self.session.cut_list)
        assert [line.text for line in parse_list(text, "x.cut").cuts[0].lines] == self.texts()


TestEditing = Editing.TestCase
TestEditing.settings = settings(max_examples=30, stateful_step_count=20, deadline=None)


def test_results_come_line_by_line_and_the_source_stays(yard: Path) -> None:
    session = Session(yard / "yard_2031.csv")
    before = session.spec.paths()[0].read_bytes()
    session.open()
    for text in TEXTS:
        session.edits.enter(text, len(session.cut.lines) - 1)
    results = list(session.results(CancelToken(), Progress()))
    assert [result.line.line.text for result in results] == list(TEXTS)
    assert results[-1].rows.count == 3
    assert [column.name for column in results[-1].shown] == ["ticket", "grade"]
    assert session.spec.paths()[0].read_bytes() == before


def test_a_list_is_saved_only_when_it_stands_in_its_file(tmp_path: Path, yard: Path) -> None:
    session = Session(yard / "yard_2031.csv")
    session.edits.enter("keep grade = 'A'", -1)
    assert not session.is_saved
    session.save_list(tmp_path / "a.cut")
    assert session.is_saved
    session.edits.switch_line(0)
    assert not session.is_saved
    session.edits.undo()
    assert session.is_saved
    again = Session.from_list(tmp_path / "a.cut")
    assert again.cut.lines[0].text == "keep grade = 'A'"
    assert again.spec.paths()[0].resolve() == session.spec.paths()[0].resolve()


def test_wrong_lines_never_get_onto_the_list(yard: Path) -> None:
    session = Session(yard / "yard_2031.csv")
    with pytest.raises(ListError):
        session.edits.enter("keep grade = = 'A'", -1)
    with pytest.raises(ListError):
        session.edits.enter("plane grade", -1)
    assert not session.cut.lines
    assert not session.edits.undo()
