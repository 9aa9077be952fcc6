"""A cutting list as a value: a source, and cuts made of lines. An edit returns a new list."""

from __future__ import annotations

from dataclasses import field, replace
from pathlib import Path

from yardcut.core.errors import ListError, Mend
from yardcut.core.language.meaning.dials_put_in import DialSetting
from yardcut.core.language.syntax.dial_lines import dial_text, parse_dial
from yardcut.core.language.syntax.look_lines import look_body
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.syntax.source_lines import sub_line_text
from yardcut.core.language.syntax.statements import comment_of, first_word
from yardcut.core.language.syntax_trees import Statement
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import without_secrets
from yardcut.core.sources.spec import SubLine

_INDENT = "  "


@dataclass(frozen=True, slots=True)
class Line:
    """One line of a cut: its text, and how it stood in its file.

    ``leading`` are the blank and comment lines above it; ``indent`` and ``ending`` what surrounds it. ``place`` is
    the line number in the file it was read from, 0 for one that was typed.
    """

    text: str
    leading: str = ""
    indent: str = _INDENT
    ending: str = "\n"
    place: int = field(default=0, compare=False)

    def __post_init__(self) -> None:
        if "://" in self.text:  # a second table may stand on a server
            object.__setattr__(self, "text", without_secrets(self.text))

    @property
    def raw(self) -> str:
        """The line's bytes in a file."""
        return f"{self.leading}{self.indent}{self.text}{self.ending or chr(10)}"

    def statement(self) -> Statement:
        """Parse the line. Raises ``ListError``."""
        return parse_statement(self.text)

    @property
    def is_off(self) -> bool:
        """True when the line is switched off."""
        return first_word(self.text) == "off"

    @property
    def look_verb(self) -> str:
        """The verb of a look line."""
        return Line(look_body(self.text).strip()).verb

    @property
    def verb(self) -> str:
        """The line's verb."""
        words = self.text.split(None, 2)
        return words[1].lower() if self.is_off and len(words) > 1 else words[0].lower()

    def switched(self) -> Line:
        """Return the line switched off, or on again."""
        if self.is_off:
            return replace(self, text=self.text[3:].lstrip())
        return replace(self, text=f"off {self.text}")


@dataclass(frozen=True, slots=True)
class Cut:
    """A named cut and its lines. ``head`` is its ``cut`` statement as it stands in the file, "" for none.

    ``looks`` are its look lines, for the eye only: nothing that is saved or run ever sees them.
    """

    name: str = ""
    lines: tuple[Line, ...] = ()
    head: str = ""
    looks: tuple[Line, ...] = ()

    def without_off_lines(self) -> Cut:
        """Return the cut without the lines that are switched off."""
        return replace(self, lines=tuple(line for line in self.lines if not line.is_off))

    def with_look(self, line: Line) -> Cut:
        """Return the cut with one more look line; an order takes the place of the one there was."""
        kept = tuple(look for look in self.looks if line.look_verb != "order" or look.look_verb != "order")
        return replace(self, looks=(*kept, line))

    def with_looks_as_lines(self) -> Cut:
        """Return the cut with its look lines as lines of the cut, before the closing save lines."""
        lines = [replace(look, text=look_body(look.text).strip()) for look in self.looks]
        place = self.place_for(len(self.lines) - 1, "keep")
        return replace(self.inserted(place, *lines), looks=())

    def with_line(self, index: int, line: Line) -> Cut:
        """Return the cut with one line replaced."""
        return replace(self, lines=(*self.lines[:index], line, *self.lines[index + 1 :]))

    def inserted(self, index: int, *lines: Line) -> Cut:
        """Return the cut with lines put in before ``index``."""
        return replace(self, lines=(*self.lines[:index], *lines, *self.lines[index:]))

    def deleted(self, index: int) -> Cut:
        """Return the cut without one line."""
        return replace(self, lines=(*self.lines[:index], *self.lines[index + 1 :]))

    def moved(self, index: int, to: int) -> Cut:
        """Return the cut with one line moved to another place."""
        lines = list(self.lines)
        lines.insert(to, lines.pop(index))
        return replace(self, lines=tuple(lines))

    def place_for(self, selected: int, verb: str) -> int:
        """Return where a new line goes: behind the selected one (-1: the source), but before closing save lines."""
        if verb == "from":
            return 0
        index = selected + 1
        closing = len(self.lines)
        while closing > 0 and self.lines[closing - 1].verb == "save":
            closing -= 1
        return index if verb == "save" else min(index, closing)


@dataclass(frozen=True, slots=True)
class FurtherSource:
    """A further source, which lines name: files, patterns and sub-lines. ``raw`` is how it stands in its file."""

    name: str
    files: tuple[str, ...]
    lines: tuple[SubLine, ...] = ()
    raw: str = ""


@dataclass(frozen=True, slots=True)
class CutList:
    """A source (files, patterns and sub-lines), further sources, dials, and cuts.

    ``preamble`` is all of the file above the first further source, dial or cut, as it stands; ``trailing`` what stands
    below the last line. ``base`` is the directory that paths are relative to.
    """

    files: tuple[str, ...]
    source_lines: tuple[SubLine, ...] = ()
    cuts: tuple[Cut, ...] = (Cut(),)
    preamble: str = ""
    trailing: str = ""
    dial_lines: tuple[Line, ...] = ()
    further: tuple[FurtherSource, ...] = ()
    base: Path = field(default=Path(), compare=False)

    @property
    def dials(self) -> tuple[DialSetting, ...]:
        """What its dials hold."""
        return tuple(parse_dial(line.text) for line in self.dial_lines)

    def dial(self, name: str) -> DialSetting:
        """Return the dial of a name. Raises ``ListError`` where there is none."""
        for dial in self.dials:
            if dial.name == name:
                return dial
        names = ", ".join(dial.name for dial in self.dials)
        raise ListError(f"the list has no dial {name}", mend=Mend(f"it has {names}") if names else None)

    def with_dial(self, dial: DialSetting) -> CutList:
        """Return the list with a dial that holds something else, or with one more; comments stay."""
        lines = list(self.dial_lines)
        place = next((place for place, each in enumerate(self.dials) if each.name == dial.name), None)
        if place is None:
            lines.append(Line(dial_text(dial), "" if lines else "\n", ""))
        else:
            lines[place] = replace(lines[place], text=dial_text(dial) + comment_of(lines[place].text))
        return replace(self, dial_lines=tuple(lines))

    def without_dial(self, name: str) -> CutList:
        """Return the list without a dial."""
        kept = tuple(line for line, dial in zip(self.dial_lines, self.dials, strict=True) if dial.name != name)
        return replace(self, dial_lines=kept)

    def with_source_line(self, line: SubLine) -> CutList:
        """Return the list with one more sub-line below its source."""
        preamble = self.preamble
        if preamble:
            preamble = preamble.rstrip("\n") + f"\n  {sub_line_text(line)}\n\n"
        return replace(self, source_lines=(*self.source_lines, line), preamble=preamble)

    def with_further(self, source: FurtherSource) -> CutList:
        """Return the list with one more further source, or with another in the place of the one of its name."""
        if all(each.name != source.name for each in self.further):
            return replace(self, further=(*self.further, source))
        return replace(self, further=tuple(source if each.name == source.name else each for each in self.further))

    def cut_index(self, name: str) -> int:
        """Return the index of the cut with a name. Raises ``ListError`` when there is none."""
        for index, cut in enumerate(self.cuts):
            if cut.name == name:
                return index
        names = ", ".join(f'"{cut.name}"' for cut in self.cuts)
        raise ListError(f'the list has no cut "{name}"; it has {names}')

    def with_new_cut(self, index: int, cut: Cut) -> CutList:
        """Return the list with one more cut, before the one with an index; the first one gets a name if it has none."""
        cuts = tuple(replace(each, name=self.free_cut_name("slice")) if not each.name else each for each in self.cuts)
        return replace(self, cuts=(*cuts[:index], cut, *cuts[index:]))

    def free_cut_name(self, name: str) -> str:
        """Return a name for a cut, with a number behind it where another one has it."""
        taken, found, number = {cut.name for cut in self.cuts}, name, 2
        while found in taken:
            found, number = f"{name} {number}", number + 1
        return found

    def without_cut(self, index: int) -> CutList:
        """Return the list without one of its cuts; the last one cannot go."""
        return replace(self, cuts=(*self.cuts[:index], *self.cuts[index + 1 :]))

    def with_cut(self, index: int, cut: Cut) -> CutList:
        """Return the list with one cut replaced."""
        return replace(self, cuts=(*self.cuts[:index], cut, *self.cuts[index + 1 :]))
