"""Which columns of a source a cut looks at, where the cells of all others go through as they stand.

Names are looked for in the texts of lines: more may be read than is looked at, never less. What a line looks at without
naming it (by number, pattern or range) is met when it runs, and then all is read.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from pathlib import Path

from yardcut.core.cutlist.model import Cut, CutList
from yardcut.core.errors import ListError, SourceError
from yardcut.core.language.verbs.save import Save
from yardcut.core.language.write_options import NO_OPTIONS
from yardcut.core.sources.formats.format_of_files import format_of_file
from yardcut.core.sources.some_columns import Wanted
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.unattended.rows_enough import is_text

_BY_KIND = re.compile(r"\bkind\b", re.IGNORECASE)
_MOST_READ = 2 / 3
"""Where more of the columns are looked at, all are read: it takes little longer, and they are kept."""


def columns_enough(cut_list: CutList, cuts: Sequence[Cut], spec: SourceSpec, out: Path | None) -> Wanted | None:
    """Return what tells which columns some cuts look at, those they may begin with too; ``None``: all must be values.

    Raises ``SourceError`` where there is no such source.
    """
    lines = [line for cut in cuts for line in cut.lines if not line.is_off]
    paths = spec.paths()
    try:
        is_delimited = all(format_of_file(path).delimiter for path in paths)
        bodies = [line.statement().body for line in lines if line.verb == "save"]
    except (SourceError, ListError):
        return None
    saves = [body for body in bodies if isinstance(body, Save)]
    ends_so = not saves or (len(saves) == 1 and lines[-1].verb == "save")  # what is begun again has written nothing
    if not is_delimited or not is_text(out) or not ends_so or not all(_is_plain(save) for save in saves):
        return None
    texts = [line.text for cut in cut_list.cuts for line in cut.lines]
    if any(_BY_KIND.search(text) for text in texts):
        return None  # which columns are of a kind, only all of their values tell
    texts += [line.text for line in cut_list.dial_lines]

    def wanted(names: Sequence[str]) -> frozenset[str] | None:
        found = named_in(texts, names)
        return found if len(found) <= _MOST_READ * len(names) else None

    return wanted


def named_in(texts: Iterable[str], names: Sequence[str]) -> frozenset[str]:
    """Return the names that stand somewhere in some texts, quoted or not, in any capitals."""
    together = "\n".join(texts).replace('""', '"').casefold()
    return frozenset(name for name in names if name.casefold() in together)


def _is_plain(save: Save) -> bool:
    return save.options == NO_OPTIONS and is_text(Path(save.path), save.format)
