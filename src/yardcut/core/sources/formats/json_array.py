"""The elements of a JSON array one after the other, so that no more than a piece of the file is in memory."""

from __future__ import annotations

import codecs
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.streams import ByteStream, open_bytes

_READ_BYTES = 1 << 20


def _whole_number(written: str) -> int | str:
    """Read a whole number; one of thousands of digits, which takes time beyond its length, stays as it is written."""
    return int(written) if len(written) <= _MOST_DIGITS else written


_MOST_DIGITS = 400
_PLAIN, _WITH_LONG_NUMBERS = json.JSONDecoder(), json.JSONDecoder(parse_int=_whole_number)
"""The second is for what the first and quicker one refuses."""


def decoded(text: str, at: int = 0) -> tuple[Any, int]:
    """Return the value that begins at a place, and where it ends. Raises ``ValueError`` or ``RecursionError``."""
    try:
        return _PLAIN.raw_decode(text, at)
    except ValueError as error:
        if isinstance(error, json.JSONDecodeError):
            raise
        return _WITH_LONG_NUMBERS.raw_decode(text, at)


class _Text:
    """What was read of a file and is not done with; ``line`` is that of the place counted up to."""

    def __init__(self, file: ByteStream) -> None:
        self._file = file
        self._decode = codecs.getincrementaldecoder("utf-8-sig")("replace").decode
        self.text = ""
        self.is_all = False
        self._line, self._counted = 1, 0

    def more(self) -> None:
        """Read on, as much again as there is: a long element is not decoded again too often."""
        piece = self._file.read(max(_READ_BYTES, len(self.text)))
        self.is_all = not piece
        self.text += self._decode(piece, final=self.is_all)

    def line_at(self, place: int) -> int:
        """Return the line of a place behind all asked for before."""
        self._line += self.text.count("\n", self._counted, place)
        self._counted = place
        return self._line

    def forget(self, place: int) -> None:
        """Let go what stands before a place, which is 0 from then on."""
        self.line_at(place)
        self.text, self._counted = self.text[place:], 0


def elements(path: Path) -> Iterator[tuple[Any, int, int]]:
    """Yield each element, the line it begins on, and how many bytes of the file are read. Raises ``SourceError``."""
    with open_bytes(path) as file:
        read = _Text(file)
        read.more()
        at = read.text.index("[") + 1
        while True:
            while at < len(read.text) and read.text[at] in " \t\r\n,":
                at += 1
            if at < len(read.text) and read.text[at] == "]":
                return
            found = _element(read, at, path)
            if found is None:
                read.forget(at)
                at = 0
                read.more()
                continue
            record, end = found
            yield record, read.line_at(at), file.position
            at = end
            if end > _READ_BYTES:
                read.forget(end)
                at = 0


def _element(read: _Text, at: int, path: Path) -> tuple[Any, int] | None:
    """Return an element and where it ends, or ``None`` when more has to be read for it."""
    try:
        record, end = decoded(read.text, at)
    except RecursionError:
        raise SourceError(f"{path}, line {read.line_at(at)}: what begins there is nested too deeply") from None
    except ValueError:
        if read.is_all:
            raise SourceError(
                f"{path}, line {read.line_at(at)}: the array breaks off or is no JSON here",
                mend=Mend("fetch or write it again"),
            ) from None
        return None
    # a number may go on behind what was read
    return (record, end) if end < len(read.text) - 1 or read.is_all else None
