"""The files that lines name second tables by."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import fields, is_dataclass
from pathlib import Path

from yardcut.core.cutlist.model import CutList
from yardcut.core.errors import ListError
from yardcut.core.language import syntax_trees as t
from yardcut.core.language.second_tree import Second, Where
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.values.formatting import quote_name


def seconds_in(node: object) -> Iterator[Second]:
    """Yield the second tables that a line's tree names, from left to right."""
    if isinstance(node, Second):
        yield node
    elif isinstance(node, tuple):
        for part in node:
            if not isinstance(part, _LITERALS):  # of which a list may have very many
                yield from seconds_in(part)
    elif is_dataclass(node):
        for part in fields(node):
            yield from seconds_in(getattr(node, part.name))


_LITERALS = (t.Text, t.Number, int, str)


def seconds_of(text: str) -> list[Second]:
    """Return the second tables a line names; none where it cannot be read."""
    try:
        return list(seconds_in(parse_statement(text)))
    except ListError:
        return []


def with_paths(text: str, moved: Callable[[str], str]) -> str:
    """Return a line with the files it names rewritten; all else stays as it is."""
    for second in reversed(seconds_of(text)):
        if second.where is Where.FILE and moved(second.name) != second.name:
            start, end = second.span
            text = text[:start] + quote_name(moved(second.name)) + text[end:]
    return text


def second_files(cut_list: CutList) -> list[Path]:
    """Return the files that a list reads beside its source, as far as they are there, each once."""
    named = [
        second.name
        for cut in cut_list.cuts
        for line in cut.lines
        for second in seconds_of(line.text)
        if second.where is Where.FILE
    ]
    specs = [SourceSpec((name,), (), cut_list.base) for name in dict.fromkeys(named)]
    specs += [SourceSpec(source.files, (), cut_list.base) for source in cut_list.further]
    return list(dict.fromkeys(path for spec in specs for path in spec.paths_there()))
