"""``save``: the slice, as it is at this line, to a file."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from yardcut.core.errors import ListError, YardcutError
from yardcut.core.language import bound as b
from yardcut.core.language import tree as t
from yardcut.core.language.binding import Binder
from yardcut.core.language.building_expressions import unquote
from yardcut.core.language.scope import Scope
from yardcut.core.language.verbs.verb import Effect, Verb
from yardcut.core.paths import path_of
from yardcut.core.values.formatting import quote_name


@dataclass(frozen=True, slots=True)
class Save(t.Body):
    """Writes the slice to a file."""

    path: str
    format: str | None = None
    replace: bool = False

    @property
    def word(self) -> str:
        """The verb."""
        return "save"


@dataclass(frozen=True, slots=True)
class BoundSave(b.BoundBody):
    """A save line."""

    save: Save

    @property
    def computes(self) -> bool:
        """It looks at no value."""
        return False


def _save(span: t.Span, items: list[Any]) -> Save:
    names = [str(item).lower() for item in items[2:] if item.type == "NAME"]
    replace = any(item.type == "REPLACE" for item in items[2:])
    return Save(unquote(items[1]), names[0] if names else None, replace, span=span)


def _text(body: Save) -> str:
    as_form = f" as {body.format}" if body.format else ""
    return f"{quote_name(body.path)}{as_form}{' replace' if body.replace else ''}"


def _bind(body: Save, binder: Binder) -> tuple[BoundSave, Scope]:
    try:
        path_of(body.path)
    except YardcutError as error:
        raise ListError(error.message, start=body.span[0], end=body.span[1], mend=error.mend) from None
    return BoundSave(body), binder.scope


SAVE = Verb(
    "save",
    'save "path" [as csv | tsv | parquet | arrow | jsonl | json | xlsx | sqlite] [replace]',
    "writes the slice as it is at this line",
    'save "winter-oak.parquet"',
    Effect.WRITES,
    {"save": _save},
    _text,
    _bind,
)
