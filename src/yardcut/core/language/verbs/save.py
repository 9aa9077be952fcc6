"""``save``: the slice, as it is at this line, to a file or to several."""

from __future__ import annotations

import re
from typing import Any

from lark import Token

from yardcut.core.errors import ListError, Mend, YardcutError
from yardcut.core.formats import written_formats
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.meaning import bound as b
from yardcut.core.language.meaning.binder import Binder
from yardcut.core.language.meaning.scope import Scope
from yardcut.core.language.save_options import SAVE_OPTIONS, WrongValueError, rows_of
from yardcut.core.language.syntax.building_expressions import unquote
from yardcut.core.language.syntax.printing import name_text, side_text
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions, wrong_marks
from yardcut.core.paths import path_of
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import is_address
from yardcut.core.values.formatting import quote_name


@dataclass(frozen=True, slots=True)
class Save(t.Body):
    """Writes the slice to a file; to one for each combination of values of ``per``, or for each ``per_rows`` rows.

    ``path`` then holds ``{name}`` of each, or ``{n}`` for the file's number.
    """

    path: str
    format: str | None = None
    replace: bool = False
    options: WriteOptions = NO_OPTIONS
    per: tuple[t.Expression, ...] = ()
    per_rows: int | None = None

    @property
    def word(self) -> str:
        """The verb."""
        return "save"


@dataclass(frozen=True, slots=True)
class BoundSave(b.BoundBody):
    """A save line, and the values whose rows each get a file of their own."""

    save: Save
    per: tuple[b.BoundValue, ...] = ()

    @property
    def computes(self) -> bool:
        """It looks at values only to part the rows by them."""
        return bool(self.per)


def _save(span: t.Span, items: list[Any]) -> Save:
    options: dict[str, Any] = {}
    own: dict[str, Any] = {}
    for item in items[2:]:
        name, value = ("replace", True) if isinstance(item, Token) else item
        where = own if name in ("format", "replace", "per", "per_rows") else options
        if name in where or (name in ("per", "per_rows") and own.keys() & {"per", "per_rows"}):
            words = SAVE_OPTIONS[name].words if name in SAVE_OPTIONS else _WORDS.get(name, name)
            raise ListError(f"{words} stands twice in this line", start=span[0], end=span[1])
        where[name] = value
    path = unquote(items[1])
    if not path:
        raise ListError("save takes a path, and this is none", start=span[0], end=span[1])
    return Save(path, options=WriteOptions.of(options), span=span, **own)


_WORDS = {"format": "as", "per": "one file per", "per_rows": "one file per"}


def _option(span: t.Span, items: list[Any]) -> tuple[str, object]:
    option = next(each for each in SAVE_OPTIONS.values() if each.terminal == items[0].type)
    written = str(items[1]) if len(items) > 1 else ""
    try:
        return option.name, option.value_of(unquote(items[1]) if option.takes == "text" else written)
    except WrongValueError as error:
        place = (items[1].start_pos or 0, items[1].end_pos or 0) if option.takes == "rows" else span
        raise _refusal(error, place) from None


def _refusal(error: WrongValueError, span: t.Span) -> ListError:
    return ListError(error.message, start=span[0], end=span[1], mend=Mend(error.mend) if error.mend else None)


def _whole(token: Token) -> int:
    try:
        return rows_of(str(token))
    except WrongValueError as error:
        raise _refusal(error, (token.start_pos or 0, token.end_pos or 0)) from None


def _one_file(span: t.Span, items: list[Any]) -> tuple[str, Any]:
    return ("per_rows", _whole(items[0])) if isinstance(items[0], Token) else ("per", tuple(items))


def _text(body: Save) -> str:
    said = quote_name(body.path) + (f" as {body.format}" if body.format else "") + body.options.text()
    if body.per:
        said += f" one file per {', '.join(map(side_text, body.per))}"
    elif body.per_rows is not None:
        said += f" one file per {body.per_rows} rows"
    return said + (" replace" if body.replace else "")


def _bind(body: Save, binder: Binder) -> tuple[BoundSave, Scope]:
    try:
        if not is_address(body.path):
            path_of(body.path)
    except YardcutError as error:
        raise ListError(error.message, start=body.span[0], end=body.span[1], mend=error.mend) from None
    options = body.options
    wrong = wrong_marks(options)
    if wrong is not None:
        raise ListError(wrong, start=body.span[0], end=body.span[1])
    column = column_in_path(body, binder.scope)
    if column:
        binder.lookup.hints.append(braces_said(column))
    return BoundSave(body, tuple(map(binder.value, body.per))), binder.scope


def column_in_path(body: Save, scope: Scope) -> str:
    """Return a column that a path names in braces where nothing fills them: the file would be called just so."""
    if body.per or body.per_rows is not None:
        return ""
    dials = {dial.name for dial in scope.dials}
    names = [name for name in _IN_BRACES.findall(body.path) if name not in dials and scope.find(name) is not None]
    return names[0] if names else ""


def braces_said(column: str) -> str:
    """Say what a column in braces needs."""
    return f"{{{column}}} stays as it is written: a file for each takes   one file per {name_text(column)}"


_IN_BRACES = re.compile(r"\{([^{}]+)\}")


SAVE = Verb(
    "save",
    lambda: f'save "path" [as {" | ".join(form.name for form in written_formats())}] [options] [replace]',
    "writes the slice as it is at this line",
    'save "winter-oak.csv" delimiter \';\' missing \'NA\'',
    Effect.WRITES,
    {
        "save_format": lambda span, items: ("format", str(items[0]).lower()),
        "save_option": _option,
        "one_file": _one_file,
        "save": _save,
    },
    _text,
    _bind,
    forms=lambda: {
        **{option.words.split()[0]: f"{option.form}: {option.says}" for option in SAVE_OPTIONS.values()},
        "one": 'save "{species}.csv" one file per species [, grade], or save "part-{n}.csv" one file per 100000 rows',
    },
)  # fmt: skip
