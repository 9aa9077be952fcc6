"""The bytes of a file as its writer had them: compression is found by its first bytes and undone on the way."""

from __future__ import annotations

import bz2
import gzip
import lzma
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import IO, Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.growing_files import Followed, growing

_MAGIC = {b"\x1f\x8b": "gz", b"BZh": "bz2", b"\xfd7zXZ\x00": "xz", b"\x28\xb5\x2f\xfd": "zst"}


def compression_of(head: bytes) -> str | None:
    """Return "gz", "bz2", "xz" or "zst" by a file's first bytes, or ``None``."""
    return next((name for magic, name in _MAGIC.items() if head.startswith(magic)), None)


class ByteStream:
    """Reads a file's bytes, uncompressed; ``position`` is how far reading has come in the file itself."""

    def __init__(self, path: Path, raw: IO[bytes], compression: str | None) -> None:
        self._path = path
        self._raw = raw
        self.compression = compression
        self._file: Any = raw
        match compression:
            case "gz":
                self._file = gzip.GzipFile(fileobj=raw)
            case "bz2":
                self._file = bz2.BZ2File(raw)
            case "xz":
                self._file = lzma.LZMAFile(raw)  # noqa: SIM115 - the file under it is closed by who opened it
            case "zst":
                import pyarrow as pa

                self._file = pa.CompressedInputStream(pa.PythonFile(raw, mode="r"), "zstd")

    @property
    def position(self) -> int:
        """Bytes of the file read so far, for progress."""
        return self._raw.tell()

    def read(self, size: int) -> bytes:
        """Read up to ``size`` bytes; fewer only at the end. Raises ``SourceError`` where the compression breaks off."""
        if self.compression is None:
            return self._raw.read(size)
        pieces, missing = [], size
        try:
            while missing:
                piece = self._file.read(missing)
                if not piece:
                    break
                pieces.append(bytes(piece))
                missing -= len(piece)
        except (EOFError, OSError, lzma.LZMAError, zlib.error) as error:
            raise SourceError(
                f"{self._path} is not a whole {self.compression} file: it breaks off or is damaged near byte "
                f"{self.position:,}",
                mend=Mend("fetch or write it again"),
            ) from error
        return b"".join(pieces)


@contextmanager
def open_bytes(path: Path) -> Iterator[ByteStream]:
    """Open a file for reading its uncompressed bytes from the start. Raises ``OSError``."""
    with open(path, "rb") as file:
        filled = growing(path)
        raw: Any = file if filled is None else Followed(file, filled)
        head = raw.read(6)
        raw.seek(0)
        yield ByteStream(path, raw, compression_of(head))


def is_compressed(path: Path) -> bool:
    """Tell whether a file has to be unpacked. Raises ``OSError``."""
    with open_bytes(path) as file:
        return file.compression is not None
