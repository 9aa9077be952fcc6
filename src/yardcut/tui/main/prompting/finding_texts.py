"""Finding a text anywhere in the rows: counted while it is typed, gone through match by match, kept or dropped."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.prompt import PromptState
from yardcut.tui.text import glance, plural
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.run.looking.found_texts import FoundText
    from yardcut.tui.desk.grids import FrameSource
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_LEAD = "find ▸"
_MOST_COLUMNS = 6


class FindHands:
    """What the keys do about a text that is looked for; it stays lit until another one is, or none."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing) -> None:
        self._stage, self._prompting, self._doing = stage, prompting, doing
        self._found: tuple[object, FoundText] | None = None
        self._text = ""

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {"find": self._ask, "find-on": lambda: self._step(1), "find-back": lambda: self._step(-1)}

    def _source(self) -> FrameSource | None:
        source = self._stage.grid.source
        return source if hasattr(source, "rows") else None  # type: ignore[return-value]

    def _ask(self) -> None:
        self._prompting.open_mode(_Finding(self._stage, self, self._prompting.close), self._text, replaceable=True)

    def enter(self, line: str) -> None:
        """Put a line about the matches on the list."""
        self.light("")
        self._doing.put(line)

    def light(self, text: str) -> None:
        """Light the cells with a text."""
        self._text = text
        self._stage.grid.light(text)

    def look(self, text: str, told: Callable[[FoundText], None]) -> None:
        """Look for a text in the rows shown."""
        from yardcut.core.run.looking.found_texts import find_text

        source, stage = self._source(), self._stage
        if source is None or not text:
            stage.jobs.stop(Job.FIND)
            return
        rows = source.rows
        assert stage.desk is not None
        runner = stage.desk.now.executor.runner

        def take(found: FoundText) -> None:
            self._found = (rows.fingerprint, found)
            told(found)

        def work(token: CancelToken, progress: Progress) -> FoundText:
            tell = lambda found: stage.jobs.tell(token, take, found)  # noqa: E731
            return find_text(text, rows.frame, runner, tell, token, progress)

        stage.jobs.start(Job.FIND, work, take, stage.say_error)

    def go(self, by: int, *, stays: bool = False) -> None:
        """Go to the next match, to where the cursor is if it stands on one and ``stays``."""
        from yardcut.core.run.looking.found_texts import next_match

        source = self._source()
        if source is None or self._found is None or self._found[0] != source.rows.fingerprint:
            return
        found, frame, viewport = self._found[1], source.rows.frame, self._stage.grid.viewport
        position = next_match(found, frame, viewport.row_position - (1 if stays else 0), by)
        if position is None:
            self._stage.say(f"no match {'below' if by > 0 else 'above'}: {plural(found.count, 'row')} in all")
            return
        places = range(len(frame.columns))
        cells = frame.page(position, position + 1, places).cells
        wanted = found.text.casefold()
        column = next((place for place in places if wanted in (cells[place][0] or "").casefold()), None)
        self._stage.grid.go_to(row_position=position, column=column)

    def _step(self, by: int) -> None:
        source = self._source()
        if not self._text or source is None:
            self._stage.say("/ looks for a text first")
        elif self._found is None or self._found[0] != source.rows.fingerprint:
            self.look(self._text, lambda found: self.go(by) if found.is_whole else None)
        else:
            self.go(by)


class _Finding:
    """The mode of a text being looked for."""

    focus = Focus.FIND
    is_tried = True
    shows_rows = False

    def __init__(self, stage: Stage, hands: FindHands, close: Callable[[bool], None]) -> None:
        self._stage, self._hands, self._close = stage, hands, close
        self._found: FoundText | None = None

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "find-enter": self._enter,
            "find-next": lambda: self._hands.go(1),
            "find-previous": lambda: self._hands.go(-1),
            "find-keep": lambda: self._line("keep"),
            "find-drop": lambda: self._line("drop"),
            "find-away": self._leave,
        }

    def text_changed(self, text: str) -> None:
        """Look for the text as it is now."""
        self._stage.prompt.set_options("", 0, [])
        self._found = None
        self._hands.light(text)
        if not text:
            self._stage.prompt.show(PromptState(_LEAD, "a text in any column, whatever its capitals"))
        else:
            self._stage.prompt.show(PromptState(_LEAD, "…"))
        self._hands.look(text, self._told)

    def _told(self, found: FoundText) -> None:
        if self._stage.mode is not self:  # the rest is counted for n and N, and something else is said by now
            return
        self._found = found
        columns = " · ".join(f"{glance(name)} {count:,}" for name, count in found.by_column[:_MOST_COLUMNS])
        more = " · …" if len(found.by_column) > _MOST_COLUMNS else ""
        so_far = "" if found.is_whole else "so far "
        said = f"{so_far}{plural(found.count, 'row')}: {columns}{more}" if found.count else "no row has it"
        if not found.count and not found.is_whole:
            said = "…"
        then = (
            f"\n{key_of('find-enter')} goes there, {key_of('find-keep')} keeps these rows, "
            f"{key_of('find-drop')} drops them"
            if found.count
            else ""
        )
        self._stage.prompt.show(PromptState(_LEAD, said + then, "$would" if found.count else "$warning"))

    def moment_changed(self, before: Moment, now: Moment) -> None:
        """Other rows: look again."""
        if now.table is not before.table or now.results is not before.results:
            self._hands.look(self._stage.prompt.text, self._told)

    def _enter(self) -> None:
        self._close(False)
        if self._found is not None and self._found.count:
            self._hands.go(1, stays=True)
            self._stage.say(f"n the next match, N the one before: {plural(self._found.count, 'row')}")

    def _line(self, verb: str) -> None:
        from yardcut.core.run.looking.found_texts import find_line

        text = self._stage.prompt.text
        if text:
            self._close(True)
            self._hands.enter(find_line(verb, text))

    def _leave(self) -> None:
        self._hands.light("")
        self._close(False)

    def close(self) -> None:
        """Nothing else is under way."""
