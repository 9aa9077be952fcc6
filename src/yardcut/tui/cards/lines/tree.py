"""The tree of a line's condition: every part with its rows, moved, grouped, negated, switched off, written anew."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from textual import on
from textual.app import ComposeResult
from textual.content import Content
from textual.widgets import Input, OptionList, Static

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.helping import condition_tree as edit
from yardcut.core.language.syntax.printing import expression_text
from yardcut.core.language.turning.dials_made import part_dials
from yardcut.core.language.verbs.filter_parts import Drop, Keep
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.run.explaining.tree_counts import Branch, branch_text, branches
from yardcut.tui.cards.card import Card
from yardcut.tui.cards.lines.part_edits import PartEdits
from yardcut.tui.cards.lines.parts_page import PartsPage
from yardcut.tui.desk.offering.alternatives import condition_from, with_condition
from yardcut.tui.desk.offering.deeds import Deed
from yardcut.tui.desk.offering.offers import Offer, count_offers
from yardcut.tui.keys.dispatcher import Calls
from yardcut.tui.keys.focus import Focus
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.panels.list_entries import GROUPS, costs_text
from yardcut.tui.text import fit, glance
from yardcut.tui.workers import Job

if TYPE_CHECKING:
    from yardcut.tui.desk.moment import Moment

_TEXT_CELLS, _COUNT_CELLS = 58, 13
_HEADS = ("passes", "costs", "no answer")


class TreeCard(Card[Deed | None]):
    """Shows the tree of one line as it is at every moment; each edit is one of the list at once."""

    FOCUS = Focus.TREE

    def __init__(self, edits: PartEdits) -> None:
        super().__init__()
        self._edits = edits
        self._page = PartsPage[tuple[edit.Path, bool]](self, "tree", edits, Keep, Drop)
        self._followed = self._page.followed
        self._branches: dict[edit.Path, Branch] = {}
        self._paths: list[edit.Path] = [()]
        self._wanted: edit.Path = ()

    def compose(self) -> ComposeResult:
        """Lay out the card."""
        yield from self._page.compose(Static(Content.styled(self._head, "$dim"), id="tree-head"))

    def on_mount(self) -> None:
        """Show the tree."""
        self.set_focus(self._page.list)
        self._show()

    # what it shows

    @property
    def _root(self) -> t.Expression:
        assert self._followed.statement is not None
        assert isinstance(self._followed.statement.body, Keep | Drop)
        return self._followed.statement.body.condition

    def show(self, moment: Moment) -> None:
        """Show the line as it is now; its counts come as soon as its result is there."""
        self._say_so_far()
        if not self._page.follow(moment):
            return
        if self._followed.has_changed:
            self._branches = {}
        if self.is_mounted:
            if self._page.is_free:
                self._wanted = self._path
            self._show()

    def _show(self) -> None:
        moment, statement = self._followed.moment, self._followed.statement
        if moment is None or statement is None:
            return
        self._paths = [path for path, _ in edit.walk(self._root)]
        marked = self._paths.index(self._wanted) if self._wanted in self._paths else 0
        lines = [self._line(path, node) for path, node in edit.walk(self._root)]
        self._page.list_parts(f"{statement.verb} what is true of", lines, marked)
        result = moment.result_at(self._followed.index)
        if result is None or result.line.statement != statement or self._branches:
            return

        def work(token: CancelToken, progress: Progress) -> list[Branch]:
            return branches(result, moment.executor, token)

        self.jobs.start(Job.TREE, work, self._counted, lambda error: self._say(str(error)))

    def _counted(self, found: list[Branch]) -> None:
        self._branches = {branch.path: branch for branch in found}
        for place, (path, node) in enumerate(edit.walk(self._root)):
            self._page.list.replace_option_prompt_at_index(place, self._line(path, node))

    def _line(self, path: edit.Path, node: t.Expression) -> Content:
        branch = self._branches.get(path)
        is_off = any(isinstance(edit.node_at(self._root, path[:depth]), t.Off) for depth in range(len(path) + 1))
        text = branch_text(node)
        lead = "│ " * max(0, len(path) - 1) + ("├ " if path else "")
        counts = ["…", "", "…"]
        if branch is not None:
            counts = [
                "" if branch.passes is None else f"{branch.passes:,}",
                costs_text(branch.costs),
                "" if not branch.unknown else f"{branch.unknown:,}",
            ]
        elif is_off or self._followed.moment is None or self._followed.moment.result_at(self._followed.index) is None:
            counts = ["", "", ""]
        style = "$dim strike" if is_off else "$dim" if text in GROUPS else "bold"
        return Content.assemble(
            (lead, "$gone"),
            (fit(glance(text), max(4, self._cells - len(lead))), style),
            (f"{counts[0]:>{_COUNT_CELLS}}", "$count"),
            (f"{counts[1]:>{_COUNT_CELLS}}", "$saw"),
            (f"{counts[2]:>{_COUNT_CELLS}}", "$none"),
        )

    @property
    def _head(self) -> str:
        return " " * self._cells + "".join(f"{word:>{_COUNT_CELLS}}" for word in _HEADS)

    @property
    def _cells(self) -> int:
        """The cells of a part's text: what the counts leave of them."""
        return self.text_cells(_TEXT_CELLS, len(_HEADS) * _COUNT_CELLS)

    def _say(self, text: str, style: str = "$warning") -> None:
        self._page.say(text, style)

    # editing

    @property
    def calls(self) -> Calls:
        """What carries out its actions."""
        return {
            "tree-edit": self._edit,
            "tree-add": self._add,
            "tree-off": lambda: self._replace(edit.switched),
            "tree-not": lambda: self._replace(edit.negated),
            "tree-turn": lambda: self._replace(edit.turned),
            "tree-group": lambda: self._become(*edit.wrapped(self._root, self._path)),
            "tree-dissolve": lambda: self._become(*edit.unwrapped(self._root, self._path)),
            "tree-up": lambda: self._become(*edit.moved(self._root, self._path, -1)),
            "tree-down": lambda: self._become(*edit.moved(self._root, self._path, 1)),
            "tree-delete": self._delete,
            "tree-rows": self._its_rows,
            "tree-dial": self._make_dial,
            **self._page.calls(),
        }

    @property
    def _path(self) -> edit.Path:
        place = self._page.list.highlighted or 0
        return self._paths[min(place, len(self._paths) - 1)]

    def _replace(self, work: Callable[[t.Expression], t.Expression]) -> None:
        path = self._path
        root = edit.replaced(self._root, path, work(edit.node_at(self._root, path)))
        assert root is not None
        self._become(root, path)

    def _become(self, root: t.Expression, path: edit.Path) -> None:
        """Have the line say another condition, the cursor on one of its parts."""
        if root == self._root:
            self._say("there is nothing to be done so here")
            return
        assert self._followed.statement is not None
        self._wanted = path
        self._say(self._edits.rewrite(self._followed.index, with_condition(self._followed.statement, root)), "$would")

    def _delete(self) -> None:
        root = edit.replaced(self._root, self._path, None)
        if root is None:
            self._say("this is all of the condition: Del on the list takes the line out")
            return
        self._become(root, self._path)

    def _make_dial(self) -> None:
        """Make a dial of what the marked piece compares with."""
        moment, statement = self._followed.moment, self._followed.statement
        assert moment is not None
        assert statement is not None
        path = self._path
        try:
            node, dials = part_dials(edit.node_at(self._root, path), [dial.name for dial in moment.cut_list.dials])
        except ListError as error:
            self._say(error.message)
            return
        root = edit.replaced(self._root, path, node)
        assert root is not None
        self._wanted = path
        self._say(self._edits.put_dials(self._followed.index, with_condition(statement, root), dials), "$would")

    def _its_rows(self) -> None:
        """Show in the table the rows that this part alone takes."""
        branch = self._branches.get(self._path)
        if branch is None or branch.costs is None or branch.costs <= 0:
            self._say("no row is gone because of this part alone")
            return
        self.dismiss(Deed(str(self._paths.index(self._path)), self._followed.index, own="rows of a part"))

    # writing a part

    def _edit(self) -> None:
        if self._page.writing is not None:
            self._written()
            return
        path = self._path
        node = edit.node_at(self._root, path)
        if edit.children(node) and not isinstance(node, t.Off):
            self._say("this is a group: its parts are written one by one, or w on the list writes the whole line")
            return
        self._write(path, expression_text(node.condition if isinstance(node, t.Off) else node), adds=False)

    def _add(self) -> None:
        self._write(self._path, "", adds=True)

    def _write(self, path: edit.Path, text: str, *, adds: bool) -> None:
        said = "one more condition beside this one" if adds else f"{key_of('tree-edit')} puts it in its place"
        self._page.write((path, adds), text, said)

    def _written_root(self) -> tuple[t.Expression, edit.Path]:
        """Return the condition with what is written in it. Raises ``ListError``."""
        assert self._page.writing is not None
        path, adds = self._page.writing
        node = condition_from(self._page.field.text)
        if not adds:
            there = edit.node_at(self._root, path)
            return edit.replaced(self._root, path, t.Off(node) if isinstance(there, t.Off) else node) or node, path
        return edit.added(self._root, path, node)

    @on(Input.Changed)
    def _typed(self) -> None:
        """Say what the line would leave with what is written."""
        moment, statement = self._followed.moment, self._followed.statement
        if self._page.writing is None or moment is None or statement is None or not self._page.field.text:
            return
        try:
            root, _ = self._written_root()
        except ListError as error:
            self._say(error.message)
            return
        text = with_condition(statement, root)
        self._say("…", "$dim")

        def work(token: CancelToken, progress: Progress) -> None:
            told = lambda _, left: self.jobs.tell(token, self._would, left)  # noqa: E731
            count_offers(moment, [Offer(0, self._followed.index, text)], told, token, progress)

        self.jobs.start(Job.TRY, work, failed=lambda error: self._say(str(error)))

    def _would(self, left: int) -> None:
        self._say(f"the line would leave {left:,}", "$would")

    def _written(self) -> None:
        if not self._page.field.text:
            self._page.stop_writing()
            return
        try:
            root, path = self._written_root()
        except ListError as error:
            self._say(str(error))
            return
        self._page.stop_writing()
        self._become(root, path)

    def on_option_list_option_selected(self, event: OptionList.OptionSelected) -> None:
        """Edit what was clicked."""
        self._edit()
