"""What a shell completes: commands and files, and in a list its cuts and dials."""

from __future__ import annotations

import contextlib
import glob
import os
import shlex
from pathlib import Path
from typing import TYPE_CHECKING

import click
from click.shell_completion import CompletionItem, split_arg_string

from yardcut.core.errors import YardcutError

_ROWS_LOOKED_AT = 200
"""Of a source whose columns are completed: what they are called and hold shows in the first rows."""

if TYPE_CHECKING:
    from yardcut.core.cutlist.model import CutList


def files_like(incomplete: str) -> list[CompletionItem]:
    """Return the files a path may become; those with a dot before their name only when it is typed."""
    found = sorted(glob.glob(glob.escape(incomplete) + "*"))
    return [CompletionItem(path + "/" if os.path.isdir(path) else path) for path in found]


def cuts_of(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Return the cuts of the list named before."""
    known = _list_named()
    cuts = known.cuts if known is not None else ()
    return [CompletionItem(cut.name) for cut in cuts if cut.name.startswith(incomplete)]


def dials_of(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Return the dials of the list named before; for ``--set`` with the equals sign behind each."""
    known = _list_named()
    dials = known.dials if known is not None else ()
    behind = "=" if param.name == "settings" else ""
    return [CompletionItem(dial.name + behind, help=dial.said()) for dial in dials if dial.name.startswith(incomplete)]


def lines_like(ctx: click.Context, param: click.Parameter, incomplete: str) -> list[CompletionItem]:
    """Return what a line of a cut may become: verbs, forms, functions, and the columns of the source named before."""
    from yardcut.core.expressions.frame import source_scope
    from yardcut.core.language.helping.completing_lines import Frequent, complete
    from yardcut.core.sources.opening_sources import open_table
    from yardcut.core.sources.spec import SourceSpec

    with contextlib.suppress(YardcutError, ValueError):
        words = split_arg_string(os.environ.get("COMP_WORDS", "").replace("\n", " "))
        source = next((word for word in words[2:] if Path(word).is_file()), None)
        if source is not None:
            table = open_table(SourceSpec.of(Path(source)), first_rows=_ROWS_LOOKED_AT)
            found = complete(incomplete, source_scope(table), lambda column: Frequent())
            begun = incomplete[found.start :].lower().lstrip('"')
            return [
                CompletionItem(incomplete[: found.start] + option.text, help=option.detail)
                for option in found.options
                if option.text.lower().lstrip('"').startswith(begun)  # a shell puts in what they begin with alike
            ]
    return []


def _list_named() -> CutList | None:
    """Return the first list among the words so far.

    An option whose value is being completed leaves the parser without the words before it.
    """
    from yardcut.core.cutlist.file import load_list

    with contextlib.suppress(YardcutError, ValueError):
        for word in shlex.split(os.environ.get("COMP_WORDS", "").replace("\n", " ")):
            if word.endswith(".cut"):
                return load_list(Path(word))
    return None
