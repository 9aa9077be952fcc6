"""Values pasted behind ``IN (``: written as the column's kind needs them, or put into a file that the line names."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from yardcut.core.errors import YardcutError
from yardcut.core.language.helping.pasted_values import Pasted, pasted_values
from yardcut.core.language.helping.value_sets import value_literal
from yardcut.core.outgoing import Outgoing
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind
from yardcut.tui.keys.focus import Focus
from yardcut.tui.text import plural

if TYPE_CHECKING:
    from pathlib import Path

    from yardcut.tui.main.stage import Stage

_OPENED = re.compile(r"\bIN\s*\((?:[^()]*,)?\s*\Z", re.IGNORECASE)
MOST_INLINE = 40
"""Values that are written into a line; more are offered a file."""


class Pasting:
    """Takes what is pasted while a line is written."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage

    def take(self, text: str) -> bool:
        """Take several values pasted behind ``IN (``; ``False`` for any other text."""
        stage = self._stage
        if stage.mode is None or stage.mode.focus is not Focus.PROMPT or stage.desk is None:
            return False
        before = stage.prompt.text_before_cursor()
        opened = _OPENED.search(before)
        if opened is None:
            return False
        kind = self._kind(before[: opened.start()])
        pasted = pasted_values(text, kind)
        if len(pasted.values) < 2:
            return False
        if len(pasted.values) > MOST_INLINE and before[opened.start() :].rstrip().endswith("("):
            self._ask(pasted, kind, before, opened.start())
        else:
            self._write(pasted, kind)
        return True

    def _kind(self, before: str) -> Kind:
        """Return the kind of the column that is asked about."""
        from yardcut.core.language.syntax.building_expressions import name_in
        from yardcut.core.language.syntax.parsing_lines import read_as_far

        stage = self._stage
        assert stage.desk is not None
        now = stage.desk.now
        names = [token for token in read_as_far(before)[0] if token.type in ("NAME", "QUOTED")]
        if not names:
            return Kind.TEXT
        name = name_in(names[-1])
        column = now.scope_at(now.selected).find(name)
        return Kind.TEXT if column is None else column.kind

    def _write(self, pasted: Pasted, kind: Kind) -> None:
        """Write the values into the line, and close the list where nothing does."""
        prompt = self._stage.prompt
        before = prompt.text_before_cursor()
        closes = "" if ")" in prompt.text[len(before) :] else ")"
        prompt.take_text(", ".join(value_literal(kind, value) for value in pasted.values) + closes)
        said = pasted.said()
        if said:
            self._stage.say(f"put right: {said}")

    def _ask(self, pasted: Pasted, kind: Kind, before: str, place: int) -> None:
        """Offer a file beside the list for very many values."""
        from yardcut.tui.cards.confirm import ConfirmCard

        stage = self._stage
        assert stage.desk is not None
        path = _free(stage.desk.now.cut_list.base)

        def answered(letter: str | None) -> None:
            if letter == "l":
                self._write(pasted, kind)
            elif letter == "f":
                self._keep(pasted, path, before, place)

        count = plural(len(pasted.values), "value")
        question = f"{count}: write them to {path}, which the line names, or into the line itself?"
        stage.app.push_screen(ConfirmCard(question, {"f": "a file", "l": "the line"}), answered)

    def _keep(self, pasted: Pasted, path: Path, before: str, place: int) -> None:
        stage = self._stage
        assert stage.desk is not None
        out = Outgoing(path, stage.desk.now.protected)
        content = "".join(f"{_line(value)}\n" for value in pasted.values).encode("utf-8", "surrogatepass")

        def there(_: object) -> None:
            prompt = stage.prompt
            rest = prompt.text[len(before) :].removeprefix(")")
            prompt.set_text(f"{before[:place]}IN {quote_name(path.name)}{rest}")
            said = pasted.said()
            stage.say(f"wrote {path}: {plural(len(pasted.values), 'value')}{f'; put right: {said}' if said else ''}")

        def failed(error: YardcutError) -> None:
            stage.say_error(error)

        stage.write(lambda token, progress: out.write(content), there, failed)


def _line(value: str) -> str:
    """Write a value as a line of a file of values."""
    return '"' + value.replace('"', '""') + '"' if value[:1] == '"' or "\n" in value else value


def _free(folder: Path) -> Path:
    """Return a path that is nobody's yet."""
    path, number = folder / "asked.txt", 2
    while path.exists():
        path, number = folder / f"asked-{number}.txt", number + 1
    return path
