"""What the keys do with the cuts of the list."""

from __future__ import annotations

from typing import TYPE_CHECKING

from yardcut.core.errors import ListError
from yardcut.tui.keys.keymap import key_of
from yardcut.tui.main.prompting.asking import Meaning, Question

if TYPE_CHECKING:
    from yardcut.tui.cards.lines.cuts import CutDeed
    from yardcut.tui.desk.desk import Desk
    from yardcut.tui.keys.dispatcher import Calls
    from yardcut.tui.main.hands.hands_compare import CompareHands
    from yardcut.tui.main.prompting.prompting import Prompting
    from yardcut.tui.main.stage import Stage


class CutsHands:
    """Going from cut to cut, adding, copying, naming and taking out."""

    def __init__(self, stage: Stage, prompting: Prompting, comparing: CompareHands) -> None:
        self._stage = stage
        self._prompting = prompting
        self._comparing = comparing

    @property
    def calls(self) -> Calls:
        """What carries out the actions."""
        return {
            "cuts": self._card,
            "copy-cut": lambda: self._add("copy", self._desk.now.cut_index),
            "next-cut": lambda: self._turn(1),
            "previous-cut": lambda: self._turn(-1),
        }

    @property
    def _desk(self) -> Desk:
        assert self._stage.desk is not None
        return self._stage.desk

    def _turn(self, by: int) -> None:
        if not self._desk.edits.turn_cut(by):
            self._stage.say("the list has one cut: C adds another")

    def _card(self) -> None:
        """Show the cuts."""
        from yardcut.tui.cards.lines.cuts import CutEntry, CutsCard

        now = self._desk.now
        entries = [
            CutEntry(cut.name, [line.text for line in cut.lines], index == now.cut_index)
            for index, cut in enumerate(now.cut_list.cuts)
        ]
        self._stage.app.push_screen(CutsCard(entries), self._chosen)

    def _chosen(self, deed: CutDeed | None) -> None:
        if deed is None or deed.index >= len(self._desk.now.cut_list.cuts):
            return
        if deed.what == "go":
            self._desk.edits.turn_cut(deed.index - self._desk.now.cut_index)
        elif deed.what == "rename":
            self._rename(deed.index)
        elif deed.what == "compare":
            self._comparing.with_cut(deed.index)
        elif deed.what == "elsewhere":
            self._comparing.on_another(deed.index)
        elif deed.what == "delete":
            self._delete(deed.index)
        else:
            self._add(deed.what, deed.index)

    def _add(self, what: str, index: int) -> None:
        """Add a cut behind another one and go to it; its name is given later by whoever wants another."""
        from yardcut.core.cutlist.edited_cuts import with_copy, with_cut_from, with_empty_cut

        add = {"new": with_empty_cut, "copy": with_copy, "from": with_cut_from}[what]
        self._desk.edits.take_list(add(self._desk.now.cut_list, index), index + 1)
        made = self._desk.now.cut_list.cuts[index + 1].name
        self._stage.say(
            f"made the cut {made}   ({key_of('cuts')} {key_of('cuts-rename')} names it, {key_of('undo')} takes it back)"
        )

    def _rename(self, index: int) -> None:
        """Ask for a name."""
        from yardcut.core.cutlist.edited_cuts import with_cut_named

        now = self._desk.now
        name = now.cut_list.cuts[index].name

        def means(text: str) -> Meaning:
            with_cut_named(now.cut_list, index, text)
            return Meaning("this is its name now" if text == name else f"the cut is called {text}", good=True)

        def rename(text: str) -> None:
            if text != name:
                cuts = self._desk.now.cut_list
                self._desk.edits.take_list(with_cut_named(cuts, index, text), self._desk.now.cut_index)

        self._prompting.ask(Question("name of the cut ▸", name, means, rename))

    def _delete(self, index: int) -> None:
        from yardcut.core.cutlist.edited_cuts import without_cut

        now = self._desk.now
        try:
            left = without_cut(now.cut_list, index)
        except ListError as error:
            self._stage.say_error(error)
            return
        at = now.cut_index - (index < now.cut_index)
        self._desk.edits.take_list(left, min(at, len(left.cuts) - 1))
        self._stage.say(f"took out the cut {now.cut_list.cuts[index].name}   ({key_of('undo')} puts it back)")
