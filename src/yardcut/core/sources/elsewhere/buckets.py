"""Objects of S3 buckets, by pyarrow's filesystem: credentials, region and endpoint from the standard places."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import Any
from urllib.parse import unquote, urlsplit

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.bucket_patterns import bucket, bucket_refused
from yardcut.core.sources.elsewhere.coming_files import About, begin, refused, write_pieces

_PIECE_BYTES = 1 << 22


def get_object(address: str, part: Path, known: About | None, token: CancelToken, progress: Progress) -> About | None:
    """Fetch an object, unless it is the one that is known. Raises ``SourceError``, ``StoppedError`` and ``OSError``."""
    progress.begin(f"asking {urlsplit(address).netloc}", 1)
    try:
        with bucket().open_input_stream(key_of_object(address), compression=None) as stream:
            about = _about(stream.metadata())
            if known is not None and about.tag and (about.tag, about.size_bytes) == (known.tag, known.size_bytes):
                return None
            begin(progress, part.stem, about.size_bytes)
            done = write_pieces(_pieces(stream), part, 0, token, progress)
    except OSError as error:
        if error.errno is not None and part.exists():
            raise  # of the disk here
        raise bucket_refused(address, error) from error
    if about.size_bytes not in (-1, done):
        part.unlink(missing_ok=True)
        raise refused(address, f"{done:,} of {about.size_bytes:,} bytes came")
    return about


def ends_of_object(address: str, count: int) -> tuple[About, bytes, bytes] | None:
    """Ask for the first and the last bytes of an object, and what is said of it; nothing where that does not come."""
    try:
        with bucket().open_input_file(key_of_object(address)) as file:
            about = replace(_about(file.metadata()), size_bytes=file.size())
            first = file.read_at(count, 0)
            last = file.read_at(count, max(0, about.size_bytes - count))
    except OSError:
        return None
    return (about, first, last) if about.tag and len(first) == len(last) == count else None


def object_there(address: str, known: About) -> Any:
    """Open an object where it stands. Raises ``SourceError`` where it is another by now."""
    try:
        file = bucket().open_input_file(key_of_object(address))
    except OSError as error:
        raise bucket_refused(address, error) from error
    if (_about(file.metadata()).tag, file.size()) != (known.tag, known.size_bytes):
        file.close()
        raise SourceError(f"{address} is another file by now", mend=Mend("read it anew"))
    return file


def key_of_object(address: str) -> str:
    """Return the bucket and the key of an object."""
    return unquote(address.split("://", 1)[1])


def _about(metadata: dict[str | bytes, str | bytes] | None) -> About:
    said = {_text(key).lower(): _text(value) for key, value in (metadata or {}).items()}
    size = said.get("content-length", "")
    return About(said.get("etag", ""), said.get("last-modified", ""), int(size) if size.isdecimal() else -1)


def _text(word: str | bytes) -> str:
    return word.decode("utf-8", "replace") if isinstance(word, bytes) else word


def _pieces(stream: Any) -> Iterator[bytes]:
    while piece := stream.read(_PIECE_BYTES):
        yield piece
