"""Pictures: of what, and where they are saved."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from yardcut.tui.main.saving.saving_tables import save_table

if TYPE_CHECKING:
    from yardcut.core.pictures.bar_data import Bars
    from yardcut.core.run.executing.results import LineResult
    from yardcut.tui.cards.looking.picture import Subject
    from yardcut.tui.desk.moment import Moment
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.doing import Doing
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage

_ENDINGS = {".svg": "", ".pdf": ""}


class PictureHands:
    """The picture of the selected line, or of the column under the cursor."""

    def __init__(
        self, stage: Stage, prompting: Prompting, doing: Doing, nudge: Callable[[int], str],
        dial: Callable[[int], Callable[[int], str] | None],
    ) -> None:  # fmt: skip
        self._stage = stage
        self._prompting = prompting
        self._doing = doing
        self._nudge, self._dial = nudge, dial
        self._bars: Bars | None = None
        doing.own["picture"] = self._of_line
        doing.own["save picture"] = self._save
        doing.own["choose picture column"] = self._choose
        doing.own["title picture"] = self._ask_title
        self._subject: Subject | None = None
        self._title = ""
        self._labels: list[str] = []

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "picture": self._of_line,
            "plank": self._of_list,
        }

    def _now(self) -> Moment:
        assert self._stage.desk is not None
        return self._stage.desk.now

    def _of_line(self) -> None:
        """Show the picture of a draw; on any other line, and the source, that of the column under the cursor."""
        from yardcut.core.language.verbs.draw_parts import BoundDraw
        from yardcut.core.run.looking.pictured import top_value
        from yardcut.tui.desk.pictures import BalanceSubject, TopSubject

        now = self._now()
        result = now.result_at(now.selected)
        body = None if result is None or result.line.bound is None else result.line.bound.body
        if result is not None and not result.frame.table.leads_to_source and now.part is None:
            self._of_tally(result)
        elif result is None or not isinstance(body, BoundDraw):
            self._of_column()
        elif top_value(result) is not None:
            self.show(TopSubject(self._now, now.selected, self._nudge, self._labels))
        else:
            self.show(BalanceSubject(now, result))

    def _of_list(self) -> None:
        """Show the plank of the cut."""
        from yardcut.tui.desk.pictures import PlankSubject

        self.show(PlankSubject(self._now()))

    def _of_tally(self, result: LineResult) -> None:
        """Show what was put together: the numbers under the cursor, or the first there are."""
        from yardcut.tui.desk.pictures import TallySubject

        column = self._stage.grid.cursor_column
        numbers = [each.id for each in result.shown if each.kind.is_numeric]
        place = numbers.index(column.id) if column is not None and column.id in numbers else 0
        self.show(TallySubject(self._now, self._now().selected, place))

    def _of_column(self) -> None:
        from yardcut.tui.desk.grids import FrameSource
        from yardcut.tui.desk.pictures import ColumnSubject

        source, column = self._stage.grid.source, self._stage.grid.cursor_column
        if not isinstance(source, FrameSource) or column is None:
            self._stage.say("there is no column here to draw")
            return
        columns = source.rows.frame.columns
        place = next((at for at, each in enumerate(columns) if each.id == column.id), 0)
        self.show(ColumnSubject(self._now(), source.rows, columns, place, source.label))

    def show(self, subject: Subject) -> None:
        """Show a picture, and save it where that is wanted."""
        from yardcut.tui.cards.looking.picture import PictureCard
        from yardcut.tui.desk.pictures import TallySubject, TopSubject

        if subject is not self._subject:
            self._title = ""
        self._subject = subject
        # those of a line follow it; others are of the rows there were
        turn = self._dial(subject.index) if isinstance(subject, TopSubject | TallySubject) else None
        self._stage.app.push_screen(PictureCard(subject, self._keep, self._title, turn), self._doing.done)

    def _keep(self, bars: Bars) -> None:
        self._bars = bars

    def _choose(self) -> None:
        """Ask for a column, and show the picture with it."""
        from yardcut.tui.main.prompting.going import choose_column

        subject = self._subject
        if subject is None:
            return

        def chosen(place: int) -> None:
            subject.place = place
            self.show(subject)

        self._prompting.ask(choose_column("column of the picture ▸", subject.names(), chosen))

    def _ask_title(self) -> None:
        """Ask for a title, and show the picture under it; none gives it back its own."""
        from yardcut.tui.main.prompting.asking import Meaning, Question

        subject = self._subject
        if subject is None:
            return

        def means(text: str) -> Meaning:
            return Meaning("the title of the picture" if text.strip() else "the title it has by itself", good=True)

        def done(text: str) -> None:
            self._title = text.strip()
            self.show(subject)

        self._prompting.ask(Question("title ▸", self._title, means, done))

    def _save(self) -> None:
        """Ask where the picture goes, and write it there."""
        from yardcut.core.pictures.drawing_files import write_picture

        bars = self._bars
        if bars is not None:
            name = "".join(char if char.isalnum() else "_" for char in bars.title).strip("_")[:60] or "picture"
            save_table(
                self._stage, self._prompting, "picture to ▸", f"{name}.svg", "the picture",
                lambda out: write_picture(bars, out), _ENDINGS,
            )  # fmt: skip
