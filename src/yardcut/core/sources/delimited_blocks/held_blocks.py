"""Blocks that are cut already, given to whoever reads the file that they stand in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path

from yardcut.core.sources.delimited_blocks.cutting import Block, joined, paired_quotes
from yardcut.core.sources.form.delimited_form import Form

_held: dict[Path, Sequence[Block]] = {}


def held_blocks(path: Path) -> Sequence[Block] | None:
    """Return the blocks of a file that somebody holds, if anybody does."""
    return _held.get(path)


@contextmanager
def held_in_memory(path: Path, blocks: Sequence[Block]) -> Iterator[None]:
    """Give whoever reads a file these blocks, which are what stands in it, and need not be cut out of it again."""
    _held[path] = blocks
    try:
        yield
    finally:
        del _held[path]


def as_a_file(header: bytes, blocks: Sequence[Block], form: Form, *, joins: bool) -> list[Block]:
    """Return blocks as they stand in a file of their own below a header.

    It ``joins`` the first to the header where somebody is to see from it what rows there are.
    """
    first = joined(_header(header, form), blocks[0]) if joins else _header(header, form)
    found, start, line = [first], len(first.data), 1 + first.feeds
    for block in blocks[1 if joins else 0 :]:
        found.append(replace(block, bytes_read=start + len(block.data), first_line=line, start=start))
        start, line = start + len(block.data), line + block.feeds
    return found


def _header(rows: bytes, form: Form) -> Block:
    return Block(rows, len(rows), paired_quotes(rows, form), 1, 0)
