"""Cuts of a list added, named anew and taken out; what begins with one of them goes on doing so."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.errors import ListError, Mend
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.values.formatting import quote_name


def with_empty_cut(cut_list: CutList, index: int) -> CutList:
    """Return the list with a new cut without lines behind one of its cuts."""
    return cut_list.with_new_cut(index + 1, Cut(cut_list.free_cut_name("new cut")))


def with_copy(cut_list: CutList, index: int) -> CutList:
    """Return the list with a copy of one of its cuts behind it, as it stands but for its name."""
    cut = cut_list.cuts[index]
    name = cut_list.free_cut_name(f"{cut.name or 'slice'} copy")
    return cut_list.with_new_cut(index + 1, Cut(name, tuple(replace(line, place=0) for line in cut.lines)))


def with_cut_from(cut_list: CutList, index: int) -> CutList:
    """Return the list with a new cut that begins with the rows of one of its cuts."""
    named = cut_list.with_new_cut(index + 1, Cut())
    name = cut_list.free_cut_name(f"from {named.cuts[index].name}")
    line = Line(f"from {quote_name(named.cuts[index].name)}")
    return named.with_cut(index + 1, Cut(name, (line,)))


def with_cut_named(cut_list: CutList, index: int, name: str) -> CutList:
    """Return the list with another name for one of its cuts, also where others begin with it. Raises ``ListError``."""
    if not name.strip():
        raise ListError("a cut needs a name")
    if any(cut.name == name for at, cut in enumerate(cut_list.cuts) if at != index):
        raise ListError(f"another cut is named {quote_name(name)}", mend=Mend(cut_list.free_cut_name(name)))
    old = cut_list.cuts[index].name
    cuts = [
        replace(cut, lines=tuple(_renamed(line, old, name) for line in cut.lines)) if old else cut
        for cut in cut_list.cuts
    ]
    head = f"\ncut {quote_name(name)}\n"
    if cuts[index].head:  # the comments above it stay
        before, _, _ = cuts[index].head.rpartition("cut")
        head = f"{before}cut {quote_name(name)}\n"
    cuts[index] = replace(cuts[index], name=name, head=head)
    return replace(cut_list, cuts=tuple(cuts))


def with_dials_in_line(cut_list: CutList, at: int, index: int, text: str, dials: Iterable[DialSetting]) -> CutList:
    """Return the list with another text for a line of the cut ``at``, and the dials it names. Raises ``ListError``."""
    cut = cut_list.cuts[at]
    changed = cut_list.with_cut(at, cut.with_line(index, replace(cut.lines[index], text=text)))
    for dial in dials:
        changed = changed.with_dial(dial)
    return changed


def without_cut(cut_list: CutList, index: int) -> CutList:
    """Return the list without one of its cuts. Raises ``ListError`` for the only one, or one others begin with."""
    if len(cut_list.cuts) == 1:
        raise ListError("a list has at least one cut")
    name = cut_list.cuts[index].name
    users = [cut.name for at, cut in enumerate(cut_list.cuts) if at != index and name in _begun_with(cut)]
    if users:
        raise ListError(f"{', '.join(map(quote_name, users))} begins with the cut {quote_name(name)}")
    return cut_list.without_cut(index)


def _begun_with(cut: Cut) -> list[str]:
    return [found for line in cut.lines[:1] if (found := _cut_named_in(line)) is not None]


def _cut_named_in(line: Line) -> str | None:
    words = line.text.split(None, 2 if line.is_off else 1)
    if line.verb != "from" or len(words) < 2:
        return None
    try:
        return unquote(words[-1].strip())
    except (ListError, IndexError):
        return None


def _renamed(line: Line, old: str, new: str) -> Line:
    if _cut_named_in(line) != old:
        return line
    off = "off " if line.is_off else ""
    return replace(line, text=f"{off}from {quote_name(new)}")
