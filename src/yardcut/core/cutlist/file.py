"""Reading and writing ``.cut`` files. A line nobody touched keeps its own bytes."""

from __future__ import annotations

import os
import re
from collections.abc import Callable, Sequence
from dataclasses import replace
from pathlib import Path

from yardcut.core.cutlist.further_lines import QUOTED, read_source, unquoted
from yardcut.core.cutlist.model import Cut, CutList, FurtherSource, Line
from yardcut.core.cutlist.second_paths import with_paths
from yardcut.core.errors import ListError, Mend, Place, SourceError
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.syntax.dial_lines import WORD as DIAL
from yardcut.core.language.syntax.dial_lines import parse_dial
from yardcut.core.language.syntax.look_lines import WORD as LOOK
from yardcut.core.language.syntax.look_lines import parse_look
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.source_lines import WORDS as SUB_LINE_WORDS
from yardcut.core.language.syntax.source_lines import parse_sub_line, sub_line_text
from yardcut.core.language.syntax.statements import RawStatement, split_statements, without_comments
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.language.verbs.all_verbs import VERBS
from yardcut.core.outgoing import Outgoing
from yardcut.core.sources.elsewhere.addresses import without_secrets
from yardcut.core.sources.spec import STANDARD_INPUT, SubLine
from yardcut.core.values.formatting import quote_name

FIRST_LINE = "yardcut 1"
_VERSION = re.compile(r"yardcut (\d{1,9})\b")


def load_list(path: Path) -> CutList:
    """Read a ``.cut`` file. Raises ``SourceError`` when it cannot be read and ``ListError`` when it is wrong."""
    try:
        text = path.read_bytes().decode("utf-8")
    except FileNotFoundError:
        raise SourceError(f"there is no list {path}", mend=Mend("check the path")) from None
    except UnicodeDecodeError as error:
        raise SourceError(f"{path} is not UTF-8 text: the byte at {error.start} cannot be read") from None
    except OSError as error:
        raise SourceError(f"{path} cannot be read: {error.strerror}") from error
    return replace(parse_list(text, str(path)), base=path.parent)


def parse_list(text: str, path: str | None = None) -> CutList:
    """Parse the text of a list; every error is placed in it. A password in an address is not part of it any more."""
    statements, trailing = split_statements(without_secrets(text.removeprefix("\ufeff")))
    _check_version(statements, path)
    reading = _Reading(path, statements[0])
    for raw in statements[1:]:
        reading.take(raw)
    return reading.whole(trailing)


def _check_version(statements: Sequence[RawStatement], path: str | None) -> None:
    first = " ".join(without_comments(statements[0].text).split()) if statements else ""
    version = _VERSION.match(first)
    if version is not None and int(version[1]) > int(FIRST_LINE.split()[1]):
        raise ListError(
            f"this list is of version {version[1]} of the format, and this program reads version "
            f"{FIRST_LINE.split()[1]}",
            place=Place(statements[0].line, 1, path), mend=Mend("run it with a newer Yard Cut"),
        )  # fmt: skip
    if first != FIRST_LINE:
        raise ListError(
            f"a list starts with the line: {FIRST_LINE}", place=Place(1, 1, path), mend=Mend("write it above the rest")
        )


class _Reading:
    """A list as far as it was read: the source with its sub-lines, then dials, then cuts."""

    def __init__(self, path: str | None, first: RawStatement) -> None:
        self._path = path
        self._first = first
        self._files: tuple[str, ...] = ()
        self._sub_lines: list[SubLine] = []
        self._preamble = [first.raw]
        self._cuts: list[Cut] = []
        self._dials: list[Line] = []
        self._further: list[FurtherSource] = []

    def take(self, raw: RawStatement) -> None:
        """Take the next statement."""
        word, path = raw.first_word, self._path
        place = Place(raw.line, raw.column, path)
        if word == "cut":
            self._cuts.append(_new_cut(raw, self._cuts, place))
        elif word == LOOK or word in VERBS or word == "off":
            self._line_of_cut(raw, place)
        elif word == DIAL:
            self._dial(raw, place)
        elif self._cuts:
            _line(raw, path)
        elif word == "source":
            self._source(raw, place)
        elif word in SUB_LINE_WORDS and self._files:
            if self._dials:
                raise ListError(f"a {word} line belongs to the source, above the dials", place=place)
            self._sub_line(raw)
        else:
            raise ListError(f"{word} starts no line of a list", place=place)

    def _source(self, raw: RawStatement, place: Place) -> None:
        files, name = read_source(raw, place)
        if not self._files:
            if name:
                raise ListError("the first source of a list has no name: AS is for further ones", place=place)
            self._files = files
            self._preamble.append(raw.raw)
            return
        if not name:
            raise ListError(
                "a list has one source without a name", place=place, mend=Mend("give this one a name: AS mills")
            )
        if self._dials:
            raise ListError("a further source stands above the dials", place=place)
        if any(source.name == name for source in self._further):
            raise ListError(f"two sources are named {name}", place=place)
        self._further.append(FurtherSource(name, files, raw=raw.raw))

    def _sub_line(self, raw: RawStatement) -> None:
        line = _sub_line(raw, self._path)
        if self._further:
            last = self._further.pop()
            self._further.append(replace(last, lines=(*last.lines, line), raw=last.raw + raw.raw))
        else:
            self._sub_lines.append(line)
            self._preamble.append(raw.raw)

    def _line_of_cut(self, raw: RawStatement, place: Place) -> None:
        cut = self._cuts.pop() if self._cuts else Cut()
        if raw.first_word == LOOK:
            cut = replace(cut, looks=(*cut.looks, _line(raw, self._path, parse_look)))
        elif cut.looks:
            raise ListError("look lines come after all others of a cut", place=place)
        else:
            cut = cut.inserted(len(cut.lines), _line(raw, self._path))
        self._cuts.append(cut)

    def _dial(self, raw: RawStatement, place: Place) -> None:
        if self._cuts or not self._files:
            raise ListError(f"dials stand {'above the cuts' if self._cuts else 'below the source'}", place=place)
        self._dials.append(_dial(raw, self._dials, self._path))

    def whole(self, trailing: str) -> CutList:
        """Return the list, once all was taken."""
        if not self._files:
            raise ListError(
                "the list names no source", place=Place(self._first.line + 1, 1, self._path),
                mend=Mend('write: source "yard_2031.csv"'),
            )  # fmt: skip
        cuts = tuple(self._cuts) or (Cut(),)
        preamble = "".join(self._preamble)
        return CutList(
            self._files, tuple(self._sub_lines), cuts, preamble, trailing, tuple(self._dials), tuple(self._further)
        )  # fmt: skip


def _dial(raw: RawStatement, dials: list[Line], path: str | None) -> Line:
    try:
        dial = parse_dial(raw.text)
        if any(parse_dial(line.text).name == dial.name for line in dials):
            raise ListError(f"two dials are named {dial.name}")
    except ListError as error:
        raise error.placed(place_in(raw.text, error.start, raw.line, raw.column, path)) from None
    return Line(raw.text, raw.leading, raw.indent, raw.ending, raw.line)


def _sub_line(raw: RawStatement, path: str | None) -> SubLine:
    try:
        return parse_sub_line(raw.text)
    except ListError as error:
        raise error.placed(place_in(raw.text, error.start, raw.line, raw.column, path)) from None


def _new_cut(raw: RawStatement, cuts: list[Cut], place: Place) -> Cut:
    match = QUOTED.fullmatch(without_comments(raw.text)[3:].strip())
    if match is None:
        raise ListError("cut takes a name in quotes", place=place, mend=Mend('write: cut "winter oak"'))
    name = unquoted(match.group(0), place)
    if any(cut.name == name for cut in cuts):
        raise ListError(f'two cuts are named "{name}"', place=place)
    return Cut(name, (), raw.raw)


def _line(raw: RawStatement, path: str | None, parse: Callable[[str], Statement] = parse_statement) -> Line:
    try:
        parse(raw.text)
    except ListError as error:
        place = place_in(raw.text, error.start, raw.line, raw.column, path)
        raise error.placed(place).in_statement(raw.text) from None
    return Line(raw.text, raw.leading, raw.indent, raw.ending, raw.line)


def place_in(text: str, offset: int, line: int, column: int, path: str | None = None) -> Place:
    """Return the place of an offset in a statement that starts at a line and column."""
    before = text[:offset]
    breaks = before.count("\n")
    if not breaks:
        return Place(line, column + len(before), path)
    return Place(line + breaks, len(before) - before.rfind("\n"), path)


def list_text(cut_list: CutList) -> str:
    """Write a list as text; what was read and not touched keeps its bytes."""
    parts = [cut_list.preamble or _new_preamble(cut_list)]
    parts += [source.raw or _new_source(source) for source in cut_list.further]
    parts += [line.raw for line in cut_list.dial_lines]
    for cut in cut_list.cuts:
        head = cut.head
        if not head and (cut.name or len(cut_list.cuts) > 1 or not cut_list.preamble):
            head = f"\ncut {quote_name(cut.name or 'slice')}\n"
        parts.append(head if not head or head.endswith("\n") else head + "\n")
        parts += [line.raw for line in (*cut.lines, *cut.looks)]
    if parts and not parts[0].endswith("\n"):
        parts[0] += "\n"
    return "".join(parts) + cut_list.trailing


def _new_preamble(cut_list: CutList) -> str:
    return f"{FIRST_LINE}\n\n{_source_text(cut_list.files, cut_list.source_lines)}"


def _new_source(source: FurtherSource) -> str:
    return "\n" + _source_text(source.files, source.lines, f" AS {source.name}")


def _source_text(files: Sequence[str], lines: Sequence[SubLine], named: str = "") -> str:
    written = ",\n  ".join(map(quote_name, files))
    return f"source {written}{named}\n" + "".join(f"  {sub_line_text(line)}\n" for line in lines)


def save_list(cut_list: CutList, out: Outgoing, base: Path) -> tuple[CutList, bool]:
    """Write a list to a file, beside it first and then into place.

    ``base`` is the directory the source's path was relative to; when the list goes elsewhere the path is rewritten.
    Returns the list as written, and whether the path changed. Raises ``TargetError``.
    """
    moved = relocated(cut_list, base, out.path.parent)
    out.write(list_text(moved).encode())
    return moved, list_text(moved) != list_text(cut_list)


def relocated(cut_list: CutList, base: Path, target: Path) -> CutList:
    """Return the list with its relative paths rewritten for another directory, where the two differ: those of its
    sources, and those that lines name second tables by.
    """
    if base.resolve() == target.resolve():
        return replace(cut_list, base=target)

    def moved(file: str) -> str:
        if os.path.isabs(file) or file == STANDARD_INPUT:
            return file
        return os.path.relpath(base.resolve() / file, target.resolve())

    def rewritten(text: str, files: Sequence[str]) -> str:
        return QUOTED.sub(lambda found: _rewritten(found.group(0), files, moved), text)

    further = tuple(
        replace(each, files=tuple(map(moved, each.files)), raw=rewritten(each.raw, each.files))
        for each in cut_list.further
    )
    cuts = tuple(
        replace(cut, lines=tuple(replace(line, text=with_paths(line.text, moved)) for line in cut.lines))
        for cut in cut_list.cuts
    )
    return replace(
        cut_list, files=tuple(map(moved, cut_list.files)), preamble=rewritten(cut_list.preamble, cut_list.files),
        further=further, cuts=cuts, base=target,
    )  # fmt: skip


def _rewritten(quoted: str, files: Sequence[str], moved: Callable[[str], str]) -> str:
    """Return a quoted file name as it is from elsewhere; one that stays, and any other text, keeps its own form."""
    file = unquote(quoted)
    return quote_name(moved(file)) if file in files and moved(file) != file else quoted
