"""The second tables of a list: files by their path, further sources by their name, cuts that stand above."""

from __future__ import annotations

import hashlib
from dataclasses import field, replace
from pathlib import Path

from yardcut.core.cached import Kept
from yardcut.core.cutlist.model import CutList, FurtherSource
from yardcut.core.errors import ListError, Mend, NotReadYetError, SecondSourceError, SourceError
from yardcut.core.expressions.frame import source_scope
from yardcut.core.language.meaning.bound_second import OtherRows
from yardcut.core.language.meaning.fixed import Earlier, no_earlier
from yardcut.core.language.meaning.scope import SecondTable
from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.printing import name_text
from yardcut.core.paths import paths_like
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.applying import WrongSubLineError
from yardcut.core.sources.elsewhere.standing import fetch_files, is_to_be_fetched
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import DeclaredKind, FormLine, KindLine, NoValueLine, Selector, SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.core.values.formatting import quote_name
from yardcut.core.values.kinds import Kind

_MOST_TABLES = 64
_OPEN: Kept[object, Table] = Kept(_MOST_TABLES)
"""Second tables that are open, by what was read and when it was last changed: every list of the process shares them."""


_NO_DELIMITER = "\x1f"
"""Between the cells of a file that has one value a line: the unit separator (ECMA-48), which stands in no value."""


@dataclass(frozen=True, slots=True)
class FurtherSources:
    """What a list can name beside its source. Paths are relative to ``base``.

    ``reads`` tells whether a table that was not read yet is read now, by whoever binds the line; else that is an error,
    and somebody reads it by :func:`read_second`. ``earlier`` gives the cuts above, ``cuts`` are their names.
    """

    base: Path = Path()
    named: tuple[FurtherSource, ...] = ()
    reads: bool = True
    earlier: Earlier = field(default=no_earlier, compare=False, repr=False)
    cuts: tuple[str, ...] = ()

    def table(self, second: Second) -> SecondTable:
        """Return a second table. Raises ``ListError``, ``SecondSourceError`` or ``NotReadYetError``."""
        if second.where is Where.CUT:
            return self._cut(second.name)
        table = self._open(self.spec(second))
        rows = OtherRows(table.fingerprint, _said(second), table, name=_name(second))
        return SecondTable(rows, source_scope(table))

    def list_of_values(self, second: Second, name: str) -> SecondTable | None:
        """Return a file of one value a line, all of it texts; ``None`` where it is no such file."""
        if second.where is not Where.FILE:
            return None
        spec = self.spec(second)
        table = self._open(spec)
        if len(table.columns) != 1 or "delimiter" not in table.info.files[0].form:
            return None
        every = KindLine(items=((Selector("*", is_pattern=True), DeclaredKind(Kind.TEXT)),))
        form = FormLine(header=0, footer=0, delimiter=_NO_DELIMITER)
        as_list = replace(spec, lines=(form, every, NoValueLine(texts=("",))))
        values = self._open(as_list)
        notes: tuple[str, ...] = ()
        table_name = table.columns[0].name
        if name and table_name == name and table.info.files[0].form.get("header"):
            as_list = replace(as_list, lines=(replace(form, header=1), *as_list.lines[1:]))
            values = self._open(as_list)
            notes = (f"the first line of {_said(second)} is the name of the column, and no value",)
        mark = f"{values.fingerprint} list"
        rows = OtherRows(mark, _said(second), values, notes=notes, name=_name(second), is_list=True)
        return SecondTable(rows, source_scope(values))

    def files_like(self, begun: str) -> list[str]:
        """Return the paths that a text is the beginning of, as a line names them."""
        return paths_like(begun, self.base)

    def source_names(self) -> list[str]:
        """Return the names of the further sources."""
        return [source.name for source in self.named]

    def cut_names(self) -> list[str]:
        """Return the names of the cuts above."""
        return list(self.cuts)

    def check(self, second: Second) -> None:
        """Raise ``ListError`` or ``SourceError`` where there is no such table, without reading it."""
        if second.where is Where.CUT:
            self._cut(second.name)
        elif not is_to_be_fetched(spec := self.spec(second)):
            _key(spec)

    def spec(self, second: Second) -> SourceSpec:
        """Return what a second table is read from. Raises ``ListError`` where there is no such source."""
        if second.where is Where.FILE:
            return SourceSpec((second.name,), (), self.base)
        for source in self.named:
            if source.name == second.name:
                return SourceSpec(source.files, source.lines, self.base)
        names = ", ".join(name_text(source.name) for source in self.named)
        mend = Mend(f"the list has {names}" if names else f'name a file in double quotes: "{second.name}.csv"')
        raise ListError(f"there is no further source {name_text(second.name)}", mend=mend)

    def _cut(self, name: str) -> SecondTable:
        mark, lines, scope = self.earlier(name)
        if scope.open:
            raise ListError(
                f"the columns of the cut {quote_name(name)} become known when it runs",
                mend=Mend("name them there: along x IN SEQUENCE (…)"),
            )
        return SecondTable(OtherRows(f"cut {mark}", f"the cut {quote_name(name)}", lines=lines, name=name), scope)

    def _open(self, spec: SourceSpec) -> Table:
        try:
            is_here = not is_to_be_fetched(spec)
            known = _OPEN.get(_key(spec)) if is_here else None
            if known is not None:
                return known
            if not self.reads:
                error = NotReadYetError(f"{spec.label} is being read")
                error.source = spec
                raise error
            return read_second(spec)
        except SourceError as error:
            raise SecondSourceError(error.message, mend=error.mend) from None
        except WrongSubLineError as error:
            raise SecondSourceError(f"{spec.label}: {error.message}", mend=error.mend) from None


def further_of(cut_list: CutList, *, reads: bool = True) -> FurtherSources:
    """Return what a list can name beside its source."""
    return FurtherSources(cut_list.base, cut_list.further, reads)


def read_second(spec: SourceSpec, token: CancelToken | None = None, progress: Progress | None = None) -> Table:
    """Open a second table; it stays open for whoever binds a line to it. Raises as ``open_table`` does."""
    fetch_files(spec, token or CancelToken(), progress or Progress())
    return _OPEN.get_or(_key(spec), lambda: open_table(spec, token, progress))


def _key(spec: SourceSpec) -> object:
    """Return what tells a source, as it is now, from another, or from itself changed."""
    states = []
    for path in spec.paths():
        try:
            status = path.stat()
        except FileNotFoundError:
            raise SourceError(f"there is no file {path}", mend=Mend("check the path")) from None
        except OSError as error:
            raise SourceError(f"{path} cannot be read: {error.strerror}") from None
        states.append((str(path.resolve()), status.st_size, status.st_mtime_ns, status.st_ino))
    return (tuple(states), hashlib.blake2b(repr(spec.lines).encode(), digest_size=16).hexdigest())


def _name(second: Second) -> str:
    """Return the name of a second table: of a file that without its endings."""
    return Path(second.name).name.split(".")[0] if second.where is Where.FILE else second.name


def _said(second: Second) -> str:
    return quote_name(second.name) if second.where is Where.FILE else name_text(second.name)
