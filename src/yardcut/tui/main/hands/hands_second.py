"""What the keys do about a second table: columns brought from it, and the keys that only one of the two has."""

from __future__ import annotations

import csv
import io
from dataclasses import replace
from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.core.language.second_tree import Second
    from yardcut.core.language.verbs.bring_parts import Bring
    from yardcut.core.run.executing.looked_up import LookedUp
    from yardcut.tui.cards.lines.bring import BringCard, Tried
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_SAMPLED = 6


class SecondHands:
    """Asks which table, shows it beside the first, and writes the line."""

    def __init__(self, stage: Stage, prompting: Prompting, doing: Doing) -> None:
        self._stage, self._prompting, self._doing = stage, prompting, doing

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "bring": self.bring,
            "keys-apart": self._keys_apart,
        }

    @property
    def _now(self) -> Moment:
        assert self._stage.desk is not None
        return self._stage.desk.now

    def bring(self) -> None:
        """Put a bring line together: the selected one, or a new one with a table that is asked for."""
        from yardcut.core.language.verbs.bring_parts import Bring

        now = self._now
        statement = now.lines[now.selected].statement if now.selected >= 0 else None
        if statement is not None and isinstance(statement.body, Bring):
            self._open(statement.body.second, statement.body)
        else:
            self._ask()

    def _ask(self) -> None:
        from yardcut.core.language.helping.bring_lines import second_named
        from yardcut.tui.main.prompting.asking import Meaning, Question

        now = self._now
        further = now.further
        cuts, sources = [name for name in further.cut_names() if name], further.source_names()
        known = [*cuts, *sources]

        def means(text: str) -> Meaning:
            if not text:
                more = f", or {', '.join(known)}" if known else ""
                return Meaning(f"the file that columns are brought from: a path{more}")
            second = second_named(text, cuts, sources)
            further.check(second)
            return Meaning(f"the {second.where} {second.name} beside this table", good=True)

        def options(text: str) -> list[str]:
            return [*(name for name in known if name.startswith(text)), *further.files_like(text)]

        def done(text: str) -> None:
            self._open(second_named(text, cuts, sources), None)

        self._prompting.ask(Question("second table ▸", "", means, done, options=options))

    def _open(self, second: Second, body: Bring | None) -> None:
        """Read the second table, look for keys, and open the card."""
        now = self._now
        index = now.selected if body is not None else now.cut.place_for(now.selected, "bring")
        frame = now.frame_at(index - 1)
        if frame is None:
            self._stage.say("the rows above are still being counted")
            return

        def work(token: CancelToken, progress: Progress) -> BringCard:
            return self._card(now, second, body, index, token, progress)

        def there(card: BringCard) -> None:
            self._stage.app.push_screen(card, self._doing.done)

        self._stage.fetch_for_card(Job.LOOK_INSIDE, work, there, self._stage.say_error)

    def _card(
        self, now: Moment, second: Second, body: Bring | None, index: int, token: CancelToken, progress: Progress
    ) -> BringCard:
        from yardcut.core.language.helping.bring_lines import first_bring
        from yardcut.core.run.looking.key_proposals import propose_keys, propose_latest
        from yardcut.tui.cards.lines.bring import BringCard, ThereColumn

        scope = now.scope_for_work(index - 1)
        assert scope.further is not None
        other = scope.further.table(second)
        there = replace(now.executor.rows_of(other.rows, token, progress), columns=other.scope.shown)
        here = now.frame_at(index - 1)
        assert here is not None
        proposals = propose_keys(here, there, other.rows.name, token)
        page = there.page(0, min(_SAMPLED, there.rows.count), range(len(there.columns)))
        columns = [
            ThereColumn(column.name, column.kind.value, " · ".join(cell for cell in cells if cell is not None))
            for column, cells in zip(there.columns, page.cells, strict=True)
        ]
        key = (proposals[0].ours, proposals[0].theirs) if proposals else None
        instead = body is not None
        taken = scope.names()
        body = body or first_bring(second, [column.name for column in columns], key, taken)

        def try_line(line: str, token: CancelToken, progress: Progress) -> Tried:
            return _tried(now, index, line, token, progress)

        offered = [*proposals, *propose_latest(here, there, token)]
        return BringCard(body, index, instead, columns, offered, taken, try_line, self._show_apart)

    # keys that only one side has

    def _keys_apart(self) -> None:
        """Show what the selected line looked for and did not find."""
        result = self._now.result_at(self._now.selected)
        if result is None or not result.looked_up:
            self._stage.say(f"this line looks into no second table; {key_of('bring')} brings columns from one")
            return
        self._show_apart(result.looked_up[0])

    def _show_apart(self, looked: LookedUp) -> None:
        from yardcut.core.language.meaning.bound import ColumnValue, Made
        from yardcut.core.run.looking.one_sided_keys import KeysApart, keys_apart
        from yardcut.tui.cards.looking.keys_apart import KeysApartCard

        matching = looked.matching

        def work(token: CancelToken, progress: Progress) -> KeysApart:
            return keys_apart(looked, token)

        def there(apart: KeysApart) -> None:
            self._stage.app.push_screen(KeysApartCard(matching.other.said, looked.is_list, apart), self._save)

        self._stage.fetch_for_card(Job.TREE, work, there, self._stage.say_error)
        self._names = [
            own.name if looked.is_list and isinstance(own, ColumnValue | Made) else their.name
            for own, their in zip(matching.keys, matching.their_keys, strict=True)
        ]

    def _save(self, chosen: tuple[str, list[tuple[str, ...]]] | None) -> None:
        """Ask where the keys of a side go, and write them."""
        from yardcut.tui.main.saving.saving_tables import save_table
        from yardcut.tui.text import plural

        if chosen is None:
            return
        side, keys = chosen
        header = [*self._names, *(["rows"] if side == "here" else [])]
        out = io.StringIO()
        csv.writer(out, lineterminator="\n").writerows([header, *keys])
        content = out.getvalue().encode("utf-8", "surrogatepass")
        start = "not-there.csv" if side == "there" else "without-a-match.csv"
        said = plural(len(keys), "key")
        save_table(self._stage, self._prompting, "keys to ▸", start, said, lambda target: target.write(content))


def _tried(now: Moment, index: int, line: str, token: CancelToken, progress: Progress) -> Tried:
    """Work out what a bring line would do at a place."""
    from yardcut.core.cutlist.model import Line
    from yardcut.core.run.executing.bound_lines import BoundLine, bind_line
    from yardcut.tui.cards.lines.bring import Tried

    scope = now.scope_for_work(index - 1)
    try:
        bound = bind_line(line, scope)
        assert bound is not None
        made = BoundLine(Line(line), Line(line).statement(), bound, bound.scope)
        results = list(now.executor.run_bound([*now.lines[:index], made], token, progress))
    except ListError as error:
        return Tried(error=error)
    if len(results) <= index:
        return Tried(error=ListError("a line above is wrong"))
    return Tried(results[-1].looked_up[0], results[-1].rows.count)
