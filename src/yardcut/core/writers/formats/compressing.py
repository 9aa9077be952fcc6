"""Files that are compressed by their ending: the standard library's formats, and Zstandard (RFC 8878) by pyarrow."""

from __future__ import annotations

import bz2
import codecs
import gzip
import lzma
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any, Protocol, cast

from yardcut.core.sources.streams import open_bytes

ENDINGS = {".gz": "gz", ".bz2": "bz2", ".xz": "xz", ".zst": "zst"}


@contextmanager
def open_for_writing(path: Path, compression: str) -> Iterator[IO[bytes]]:
    """Open a file for bytes that are compressed on the way, or not. Raises ``OSError``.

    The same bytes give the same file each time: no name and no clock stand in it.
    """
    with open(path, "wb") as raw:
        match compression:
            case "gz":
                with gzip.GzipFile("", "wb", 6, raw, mtime=0) as file:
                    yield cast(IO[bytes], file)
            case "bz2":
                with bz2.BZ2File(raw, "wb") as file:
                    yield cast(IO[bytes], file)
            case "xz":
                with lzma.LZMAFile(raw, "wb", preset=3) as file:
                    yield cast(IO[bytes], file)
            case "zst":
                import pyarrow as pa

                zstd: Any = pa.CompressedOutputStream(pa.PythonFile(raw, mode="w"), "zstd")
                with zstd as file:
                    yield cast(IO[bytes], file)
            case _:
                yield raw


class TextTarget(Protocol):
    """What text is written to."""

    def write(self, text: str, /) -> object:
        """Write text behind what was written."""


class BytesTarget:
    """Encodes text on its way; an encoding that begins with a mark writes it once. Bytes are taken as they are."""

    def __init__(self, raw: IO[bytes], encoding: str) -> None:
        self._raw = raw
        self._encoder = codecs.getincrementalencoder(encoding)("strict")
        self.is_utf8 = codecs.lookup(encoding).name == "utf-8"

    def write(self, text: str, /) -> object:
        """Write text behind what was written."""
        return self._raw.write(self._encoder.encode(text))

    def write_bytes(self, data: bytes) -> None:
        """Write bytes that are encoded already."""
        self._raw.write(data)


def target_of(output: IO[str]) -> TextTarget:
    """Return what takes text for an open file, bytes as they are too where these go straight through it."""
    raw, encoding = getattr(output, "buffer", None), getattr(output, "encoding", None)
    if raw is None or not encoding or codecs.lookup(encoding).name != "utf-8":
        return output
    output.flush()
    return BytesTarget(raw, encoding)


@contextmanager
def open_text(path: Path, compression: str, encoding: str = "utf-8") -> Iterator[BytesTarget]:
    """Open a file for text whose line ends stay as they are. Raises ``OSError`` and ``UnicodeEncodeError``."""
    with open_for_writing(path, compression) as raw:
        yield BytesTarget(raw, encoding)


@contextmanager
def read_text(path: Path) -> Iterator[Iterator[str]]:
    """Open a file of UTF-8, compressed or not, as its lines. Raises ``OSError`` and ``SourceError``."""
    with open_bytes(path) as raw:
        yield _lines(raw)


def _lines(raw: Any) -> Iterator[str]:
    tail = b""
    while chunk := raw.read(1 << 20):
        *whole, tail = (tail + chunk).split(b"\n")
        yield from (line.decode() for line in whole)
    if tail:
        yield tail.decode()
