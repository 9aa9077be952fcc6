"""The main screen's panels and what they show."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

from textual import on
from textual.app import ComposeResult
from textual.containers import Horizontal, Vertical
from textual.screen import Screen

from yardcut.core.errors import ListError, YardcutError
from yardcut.core.progress import CancelToken, Progress
from yardcut.tui.collecting import collect_again
from yardcut.tui.panels.gauge import Gauge, GaugeState
from yardcut.tui.panels.list_panel import ListPanel
from yardcut.tui.panels.list_state import ListState
from yardcut.tui.panels.prompt import PromptPanel, PromptState
from yardcut.tui.text import plural
from yardcut.tui.watching import FileWatch
from yardcut.tui.widgets.footer import Footer
from yardcut.tui.widgets.grid.grid import Grid
from yardcut.tui.widgets.grid.model import PreviewSource
from yardcut.tui.widgets.header import Header, HeaderState
from yardcut.tui.workers import Workers

if TYPE_CHECKING:
    from yardcut.core.profile.summary import Summary
    from yardcut.core.run.results import LineResult
    from yardcut.core.run.tree_counts import Branch
    from yardcut.core.sources.spec import SubLine
    from yardcut.core.table.table import Table
    from yardcut.tui.bench import Bench
    from yardcut.tui.opening import Opening
    from yardcut.tui.screens.asking import Question
    from yardcut.tui.widgets.grid.model import Shapes
    from yardcut.tui.writing import LineWriter

REST = PromptState(said="w writes a line · . keeps this value · i source · p columns · ? all keys", style="$faint")
_NARROW_CELLS = 110


class ViewScreen(Screen[None]):
    """The panels and what they show: composing, opening, results. It routes; it does not compute."""

    def __init__(self, opening: Opening) -> None:
        super().__init__(classes="show-grid")  # a class that changes later styles every widget anew
        self._opening = opening
        self.table: Table | None = None
        self.bench: Bench | None = None
        self.selected = -1
        self.offcut_shown = False
        self._results: list[LineResult] = []
        self._tree: tuple[Branch, ...] = ()
        self._wrong: tuple[int, ListError] | None = None
        self._writer: LineWriter | None = None
        self._question: Question | None = None
        self._spec = self._spec_before = opening.spec
        self._watch = FileWatch()
        self._change_said = ""
        self._told_to_wait = False
        self._wishes: list[Callable[[], None]] = []
        self._gauges: dict[tuple[int, int], tuple[Summary, Summary | None]] = {}

    # layout

    def compose(self) -> ComposeResult:
        """Lay out the panels."""
        yield Header(id="header")
        with Horizontal(id="middle"):
            yield ListPanel(id="list")
            with Vertical(id="right"):
                yield Grid(id="grid")
                yield Gauge(id="gauge")
        yield PromptPanel(id="prompt")
        yield Footer(id="footer")

    def on_mount(self) -> None:
        """Show the first rows at once, and open the source behind them."""
        self.tasks = Workers(self.app)
        preview = self._opening.preview
        if preview is not None:
            self.grid.show(PreviewSource(preview.names, [kind.value for kind in preview.kinds], preview.rows))
        self.grid.focus()
        self.prompt.show(REST)
        self._show_list()
        self.set_interval(0.1, self._show_work)
        # what opening needs takes half a second to import, and would take it from the first paint
        self.call_after_refresh(self.call_after_refresh, self._open)

    def _open(self) -> None:
        collect_again()
        if self._opening.choices:
            from yardcut.tui.screens.table_choice import TableChoice

            self.app.push_screen(TableChoice(self._opening.spec.label, self._opening.choices), self._table_chosen)
        else:
            self._start_opening()

    def _table_chosen(self, line: SubLine | None) -> None:
        if line is None:
            self.app.exit()
            return
        self._opening.spec = self._spec = self._opening.spec.with_line(line)
        self._opening.choices = []
        self._start_opening()

    def _start_opening(self) -> None:
        self.tasks.start("open", self._opening.open, self._opened, self._not_opened)

    def on_unmount(self) -> None:
        """Stop all work when the app ends."""
        self.tasks.stop_all()

    def on_resize(self) -> None:
        """On a narrow terminal list and table take turns."""
        narrow = self.size.width < _NARROW_CELLS
        self._turn_class("narrow", narrow)

    def _turn_class(self, name: str, on: bool) -> None:
        """Give or take a class; only a change may cost the restyling of every widget."""
        if self.has_class(name) is not on:
            self.set_class(on, name)

    @property
    def grid(self) -> Grid:
        """The grid."""
        return self.query_one(Grid)

    @property
    def list_panel(self) -> ListPanel:
        """The list."""
        return self.query_one(ListPanel)

    @property
    def prompt(self) -> PromptPanel:
        """The prompt."""
        return self.query_one(PromptPanel)

    # opening and results

    def _opened(self, table: Table) -> None:
        from yardcut.tui.table_source import TableSource

        self.table = table
        self._watch.begin(self._spec)
        self.grid.show(TableSource.whole(table), same_table=True)
        self._show_list()
        self._show_work()
        if table.info.notes:
            self.say(" · ".join(table.info.notes[:3]) + "   (i tells more)", "$warning")
        self.tasks.start("bench", lambda token, progress: self._opening.bench(table), self._bench_there,
                         self._not_opened)  # fmt: skip

    def _wait_for_bench(self, wish: Callable[[], None]) -> bool:
        """Tell whether the bench is not there yet. A key pressed in the moments before it comes is kept for then."""
        if self.bench is not None:
            return False
        if self.table is not None:
            self._wishes.append(wish)
        else:
            self._told_to_wait = True
            self.say("the file is still being read")
        return True

    def _bench_there(self, bench: Bench) -> None:
        self.bench = bench
        if self._told_to_wait and self._writer is None:
            self.prompt.show(REST)
        self.call_after_refresh(self._grant_wishes)
        self.selected = len(bench.session.cut.lines) - 1
        self._changed()
        self.tasks.start("warm up", lambda token, progress: bench.warm_up(), lambda _: None)

    def _grant_wishes(self) -> None:
        wishes, self._wishes = self._wishes, []
        for wish in wishes:
            wish()

    def _not_opened(self, error: YardcutError) -> None:
        self.app.exit(return_code=error.exit_code, message=f"yardcut: {error}")

    def _changed(self) -> None:
        """The list changed: work it out again, from the changed line on."""
        bench = self.bench
        if bench is None:
            return
        if bench.session.spec != self._spec:
            self.read_again()
            return
        self.selected = max(-1, min(self.selected, len(bench.session.cut.lines) - 1))
        self.offcut_shown = False
        self._tree = ()
        self._wrong = None
        self._results = []
        self._gauges = {}
        bench.results = []

        def work(token: CancelToken, progress: Progress) -> tuple[list[LineResult], tuple[int, ListError] | None]:
            wrong = bench.wrong_line()
            each = lambda result: self.tasks.tell(token, self._one_result, result)  # noqa: E731
            return bench.run(token, progress, each), wrong

        self.tasks.start("results", work, self._all_results, self.say_error)
        self._show_list()
        self._show_work()

    def read_again(self) -> None:
        """Read the source anew; the screen that knows how takes this over."""
        raise NotImplementedError

    def _one_result(self, result: LineResult) -> None:
        self._results.append(result)
        if self.bench is not None:
            self.bench.results = self._results
        self._show_list()
        if len(self._results) - 1 == self.selected:
            self._show_grid()

    def _all_results(self, found: tuple[list[LineResult], tuple[int, ListError] | None]) -> None:
        self._results, self._wrong = found
        if self.bench is not None:
            self.bench.results = self._results
        self._show_list()
        self._show_grid()
        self._grow_tree()

    def _grow_tree(self) -> None:
        bench = self.bench
        if bench is None or not 0 <= self.selected < len(self._results):
            self._tree = ()
            return
        result = self._results[self.selected]
        self.tasks.start("tree", lambda token, progress: tuple(bench.tree(result, token)), self._grown)

    def _grown(self, tree: tuple[Branch, ...]) -> None:
        self._tree = tree
        self._show_list()

    # showing

    def _show_list(self) -> None:
        bench = self.bench
        if bench is None:
            rows = self.table.rows if self.table is not None else None
            self.list_panel.show(ListState(source=self._opening.spec.label, source_rows=rows))
            return
        self.list_panel.show(
            ListState(
                bench.session.cut.lines, tuple(self._results), bench.session.spec.label, bench.table.rows,
                self.selected, self._wrong, self._tree,
            )
        )  # fmt: skip

    def _show_grid(self) -> None:
        bench = self.bench
        if bench is None:
            return
        if self._writer is None:  # else it shows what the line that is being written would do
            source = bench.offcut(self.selected) if self.offcut_shown else bench.grid(self.selected)
            if source is not None:
                self.grid.show(source, same_table=True)
        self._show_work()
        self._look_at_columns()

    def _look_at_columns(self) -> None:
        """Work out the gauge and the small distributions of the columns on screen."""
        bench, grid = self.bench, self.grid
        column = grid.cursor_column
        if bench is None or column is None or self.offcut_shown:
            return
        selected = self.selected
        as_of = "the source" if selected < 0 else f"as of line {selected + 1}"
        cell = grid.cursor_cell()
        value = cell[0] if cell else None
        state = GaugeState(column.name, column.kind, column.number, as_of, value=value)
        gauge = self.query_one(Gauge)
        key = (selected, column.number)
        known = self._gauges.get(key)
        if known is not None:
            gauge.show(replace(state, now=known[0], before=known[1]))
        else:
            gauge.show(state)
            self.tasks.start(
                "gauge",
                lambda token, progress: (key, bench.summary(column.number - 1, selected, token, progress)),
                self._gauged,
                self.say_error,
            )
        missing = grid.without_shape()
        if missing and not self.tasks.is_running("shapes"):
            numbers = [number - 1 for number in missing]
            self.tasks.start(
                "shapes", lambda token, progress: bench.shapes(selected, numbers, token, progress), self._shaped
            )

    def _gauged(self, found: tuple[tuple[int, int], tuple[Summary, Summary | None]]) -> None:
        self._gauges[found[0]] = found[1]
        self._look_at_columns()

    def _shaped(self, shapes: Shapes) -> None:
        self.grid.add_shapes(shapes)
        if self.grid.without_shape():
            self._look_at_columns()

    def _show_work(self) -> None:
        bench = self.bench
        opening = self._opening
        name = opening.spec.label
        if bench is None:
            size = "" if self.table is None else _size(self.table)
            work = self.tasks.under_way() or ("opening" if self.table is None else "")
            self.query_one(Header).show(HeaderState(name, size, work=work))
            return
        cut = bench.session.cut
        cuts = len(bench.session.cut_list.cuts)
        which = f" ({bench.session.cut_index + 1} of {cuts})" if cuts > 1 else ""
        saved = (
            "" if not cut.lines else "saved" if bench.session.is_saved and bench.session.list_path else "not saved yet"
        )
        if bench.session.list_path and not bench.session.is_saved:
            saved = "changed since saved"
        offcut = ""
        if self.offcut_shown and 0 <= self.selected < len(self._results):
            taken = self._results[self.selected].taken
            offcut = f"offcut of line {self.selected + 1}: {plural(taken, 'row')} · o goes back"
        self.query_one(Header).show(
            HeaderState(name, _size(bench.table), (cut.name or "cut") + which, saved, offcut, self.tasks.under_way())
        )

    # what happens in the panels

    @on(Grid.Moved)
    def _moved(self) -> None:
        if self._writer is None:
            self._look_at_columns()

    @on(ListPanel.Selected)
    def _selected(self, event: ListPanel.Selected) -> None:
        self.select(event.index)

    def select(self, index: int) -> None:
        """Select a line (-1: the source) and show the table as of it."""
        if self.bench is None:
            return
        self.selected = max(-1, min(index, len(self.bench.session.cut.lines) - 1))
        self.offcut_shown = False
        self._tree = ()
        self._show_list()
        self._show_grid()
        self._grow_tree()

    def on_descendant_focus(self) -> None:
        """Show the keys of the focus of now."""
        focused = self.focused
        focus = "list" if focused is self.list_panel else "grid" if focused is self.grid else "prompt"
        if focus == "prompt" and self._question is not None:
            focus = "ask"
        self.query_one(Footer).show_focus(focus)
        if focus in ("list", "grid"):
            self._turn_class("show-list", focus == "list")
            self._turn_class("show-grid", focus == "grid")

    # saying something in the prompt's place

    def say(self, text: str, style: str = "$would") -> None:
        """Say something where the prompt is."""
        self.prompt.show(PromptState(said=text, style=style))

    def say_error(self, error: YardcutError) -> None:
        """Say what went wrong."""
        self.say(str(error), "$warning")


def _size(table: Table) -> str:
    return f"{plural(table.rows, 'row')} × {plural(len(table.columns), 'column')}"
