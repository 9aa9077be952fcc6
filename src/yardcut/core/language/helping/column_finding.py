"""Finding columns by what is typed: fragments of names, items of the language, figures, and values that are shown."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace

from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning.bound import ShownColumn
from yardcut.core.language.meaning.chosen_columns import columns_of_item
from yardcut.core.language.meaning.scope import Lookup, Scope
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.language.verbs.columns import Columns
from yardcut.core.quick_dataclasses import dataclass

_TERM = re.compile(
    r"/(?:[^/\n\\]|\\.)+/|\"(?:[^\"\n]|\"\")*\"|kind\s+\w+|(?:missing|distinct)\s*[<>=]\s*\d+(?:\.\d+)?\s*%?|,|[^\s,]+",
    re.IGNORECASE,
)
_FIGURE = re.compile(r"(missing|distinct)\s*([<>=])\s*(\d+(?:\.\d+)?)\s*(%?)\Z", re.IGNORECASE)
FORMS = "a fragment, kiln*, *_mm, /d0[1-7]$/, kind number, #-3..#-1, felled_on..sold_on, missing > 50%, distinct < 10"
"""What can be typed, for those who wonder."""


@dataclass(frozen=True, slots=True)
class Figures:
    """What is known of a column's values: rows, those without a value, distinct ones."""

    rows: int
    missing: int
    distinct: int


@dataclass(frozen=True, slots=True)
class Found:
    """The columns found, by number: by what they are (``named``), and by a value that is shown (``valued``).

    ``unknown`` counts the columns whose figures are not known yet. ``items`` are those of the language that stand by
    themselves between commas.
    """

    named: frozenset[int] = frozenset()
    valued: frozenset[int] = frozenset()
    unknown: int = 0
    items: tuple[t.ColumnItem, ...] = ()

    @property
    def lit(self) -> frozenset[int]:
        """Those meant: by name, and by value where no name has it."""
        return self.named or self.valued


@dataclass(frozen=True, slots=True)
class Places:
    """Where columns are looked for; ``names`` has new names, ``values`` what is shown, ``figures`` what is known."""

    scope: Scope
    columns: Sequence[ShownColumn]
    names: Mapping[int, str]
    values: Callable[[int], Sequence[str | None]]
    figures: Callable[[int], Figures | None]


def find_columns(text: str, places: Places) -> Found:
    """Return the columns meant. Terms with blanks between them narrow each other, commas add.

    Raises ``ListError`` for an item that cannot be read or meets nothing.
    """
    terms = [match.group(0) for match in _TERM.finditer(text)]
    named: set[int] = set()
    valued: set[int] = set()
    unknown = 0
    begun: list[str] = []
    items: list[t.ColumnItem] = []
    for term in [*terms, ","]:
        if term != ",":
            begun.append(term)
            continue
        if begun:
            names, values, waiting = _all_of(begun, places)
            named |= names
            valued |= values
            unknown = max(unknown, waiting)
            item = _item(begun[0]) if len(begun) == 1 else None
            items += [item] if item is not None else []
        begun = []
    return Found(frozenset(named), frozenset(valued - named), unknown, tuple(items))


def _all_of(terms: Sequence[str], places: Places) -> tuple[set[int], set[int], int]:
    everywhere = {column.number for column in places.columns}
    named, either, unknown = set(everywhere), set(everywhere), 0
    for term in terms:
        names, values, waiting = _meant(term, places)
        named &= names
        either &= names | values
        unknown = max(unknown, waiting)
    return named, either - named, unknown


def _meant(term: str, places: Places) -> tuple[set[int], set[int], int]:
    figure = _FIGURE.match(term)
    if figure is not None:
        return _by_figure(figure, places)
    item = _item(term)
    if item is not None:
        scope = replace(places.scope, shown=tuple(places.columns))
        return {column.number for column in columns_of_item(item, Lookup(scope, term))}, set(), 0
    wanted = (term[1:-1].replace('""', '"') if term.startswith('"') and len(term) > 1 else term).casefold()
    names = {
        column.number
        for column in places.columns
        if wanted in column.name.casefold() or wanted in places.names.get(column.number, "").casefold()
    }
    values = {
        column.number
        for column in places.columns
        if any(value is not None and wanted in value.casefold() for value in places.values(column.number))
    }
    return names, values - names, 0


def _item(term: str) -> t.ColumnItem | None:
    """Return the item of the language a term is, where it is more than a fragment of a name."""
    if not (term[0] in "/#" or set(term) & set("*?") or ".." in term or term.lower().startswith("kind ")):
        return None
    try:
        body = parse_statement(f"columns {term}").body
    except ListError:
        if term[0] == "/" or term.lower().startswith("kind "):
            raise
        return None
    assert isinstance(body, Columns)
    return body.items[0] if len(body.items) == 1 and not body.without else None


def _by_figure(figure: re.Match[str], places: Places) -> tuple[set[int], set[int], int]:
    what, sign, number, percent = figure.groups()
    edge = float(number)
    found, unknown = set(), 0
    for column in places.columns:
        known = places.figures(column.number)
        if known is None:
            unknown += 1
            continue
        value: float = known.missing if what.lower() == "missing" else known.distinct
        if percent:
            value = 100 * value / max(1, known.rows)
        if (sign == ">" and value > edge) or (sign == "<" and value < edge) or (sign == "=" and value == edge):
            found.add(column.number)
    return found, set(), unknown
