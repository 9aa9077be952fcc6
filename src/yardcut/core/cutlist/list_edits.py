"""Edits of a list, each a step that can be taken back: the one place where a list in work changes."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace

from yardcut.core.cutlist.history import History
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.seeds import with_chosen_seed
from yardcut.core.language.syntax.look_lines import parse_look
from yardcut.core.sources.spec import SubLine

LAST = 1 << 30
"""The last line, wherever that is."""
Told = Callable[[int | None], None]
"""Is called after an edit with the index of the line to go to; ``None``: the one selected stays so."""


class ListEditing:
    """A list, the cut of it that is worked on, and how they came to be.

    Edits of one ``series``, with nothing else between them, are one.
    """

    def __init__(self, start: CutList) -> None:
        self._history: History[tuple[CutList, int]] = History((start, 0))
        self.told: Told = lambda index: None

    # what is so now

    @property
    def cut_list(self) -> CutList:
        """The list of now."""
        return self._history.now[0]

    @property
    def cut_index(self) -> int:
        """Which of its cuts is worked on."""
        return self._history.now[1]

    @property
    def cut(self) -> Cut:
        """The cut worked on."""
        return self.cut_list.cuts[self.cut_index]

    def amend(self, cut_list: CutList) -> None:
        """Put another state of the list in place of that of now: no edit of anybody's."""
        self._history.amend((cut_list, self.cut_index))

    # lines

    def enter(self, text: str, selected: int, seed: int | None = None, *, instead_of_looks: str = "") -> int:
        """Put a new line behind the selected one (-1: the source) and return its index. Raises ``ListError``.

        A draw by chance that names no seed gets the one given, or one chosen now. Look lines of the verb
        ``instead_of_looks`` go in the same edit.
        """
        text = with_chosen_seed(text.strip(), seed)
        index = self.cut.place_for(selected, Line(text).verb)
        looks = tuple(look for look in self.cut.looks if look.look_verb != instead_of_looks)
        self.change_cut(replace(self.cut, looks=looks).inserted(index, Line(text)), to=index)
        return index

    def rewrite(self, index: int, text: str, seed: int | None = None, series: Hashable = None) -> None:
        """Give a line another text, keeping what stands above it. Raises ``ListError``."""
        text = with_chosen_seed(text.strip(), seed)
        self.change_cut(self.cut.with_line(index, replace(self.cut.lines[index], text=text)), series, to=index)

    def switch_line(self, index: int) -> None:
        """Switch a line off, or on again."""
        self.change_cut(self.cut.with_line(index, self.cut.lines[index].switched()))

    def delete_line(self, index: int) -> None:
        """Take a line out."""
        self.change_cut(self.cut.deleted(index))

    def move_line(self, index: int, by: int) -> int:
        """Move a line up (-1) or down (1) and return where it is now."""
        to = max(0, min(len(self.cut.lines) - 1, index + by))
        if to != index:
            self.change_cut(self.cut.moved(index, to), to=to)
        return to

    def look(self, text: str) -> None:
        """Put a look line on the cut: order or narrow what is seen, and nothing else. Raises ``ListError``."""
        parse_look(text)
        self.change_cut(self.cut.with_look(Line(text.strip())), to=LAST)

    def look_no_more(self, *, as_lines: bool = False) -> bool:
        """Take the look lines away, or make them lines of the cut; tells whether there were any."""
        if not self.cut.looks:
            return False
        self.change_cut(self.cut.with_looks_as_lines() if as_lines else replace(self.cut, looks=()), to=LAST)
        return True

    # cuts, dials, source

    def change_cut(self, cut: Cut, series: Hashable = None, *, to: int | None = None) -> None:
        """Go on with another state of the cut worked on."""
        self.become(self.cut_list.with_cut(self.cut_index, cut), series=series, to=to)

    def become(
        self, cut_list: CutList, cut_index: int | None = None, series: Hashable = None, *, to: int | None = None
    ) -> None:
        """Go on with another list, as one edit; where its source is another, the table must be opened again."""
        self._history.push((cut_list, self.cut_index if cut_index is None else cut_index), series)
        self.told(to)

    def take_list(self, cut_list: CutList, cut_index: int) -> None:
        """Go on with another state of the list, on the last line of one of its cuts."""
        self.become(cut_list, cut_index, to=LAST)

    def turn_cut(self, by: int) -> bool:
        """Work on the next or previous cut; tells whether there is another."""
        cuts = len(self.cut_list.cuts)
        if cuts > 1:
            self.become(self.cut_list, (self.cut_index + by) % cuts, to=LAST)
        return cuts > 1

    def add_source_line(self, line: SubLine) -> None:
        """Put a sub-line below the source, which is then to be read again."""
        self.become(self.cut_list.with_source_line(line))

    def set_dial(self, dial: DialSetting, series: Hashable = None) -> None:
        """Let a dial hold something else, or have one more."""
        self.become(self.cut_list.with_dial(dial), series=series)

    def delete_dial(self, name: str) -> None:
        """Take a dial out; lines that use it are wrong then."""
        self.become(self.cut_list.without_dial(name))

    # back and forth

    def undo(self) -> bool:
        """Take the last edit back; tells whether there was one."""
        return self._gone(self._history.undo())

    def redo(self) -> bool:
        """Do an edit again; tells whether there was one."""
        return self._gone(self._history.redo())

    def _gone(self, done: bool) -> bool:
        self.told(None)
        return done
