"""Ranges of a file of the web (RFC 9110, section 14): all of one file, or an error; what breaks off is tried again."""

from __future__ import annotations

import io
import re
import time
from http import HTTPStatus
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.elsewhere import web
from yardcut.core.sources.elsewhere.coming_files import About, refused
from yardcut.core.sources.elsewhere.extras import of_extra

_RANGE = re.compile(r"bytes (\d+)-(\d+)/(\d+)")


def ends_of_page(address: str, count: int) -> tuple[About, bytes, bytes] | None:
    """Ask for the first and the last bytes of a file of the web, and what is said of it.

    Nothing where its server gives no ranges, or says nothing by which the same file is known again, or does not answer.
    Raises ``SourceError`` where the client is missing.
    """
    requests = of_extra("requests", "files of the web are fetched with it", "web")
    try:
        with requests.Session() as session:
            about, first = _range(session, address, f"bytes=0-{count - 1}", About())
            _, last = _range(session, address, f"bytes={about.size_bytes - count}-{about.size_bytes - 1}", about)
    except (requests.RequestException, _OtherwiseError):
        return None
    return (about, first, last) if len(first) == len(last) == count and web.names_it(about) else None


class _OtherwiseError(Exception):
    """A server answered with something else than the range."""

    def __init__(self, said: str, status: int) -> None:
        super().__init__(said)
        self.status = status


def _range(session: Any, address: str, wanted: str, about: About) -> tuple[About, bytes]:
    """Ask for one range of the file that is known by what was said of it."""
    is_strong = about.tag and not about.tag.startswith("W/")  # a weak one never matches (section 13.1.1)
    known = {"If-Match": about.tag} if is_strong else {"If-Unmodified-Since": about.changed} if about.changed else {}
    headers = {"Accept-Encoding": "identity", "User-Agent": "yardcut", "Range": wanted, **known}
    with web.answered(session, address, headers) as answer:
        said = _RANGE.fullmatch(str(answer.headers.get("Content-Range", "")))
        if answer.status_code != HTTPStatus.PARTIAL_CONTENT or said is None:
            raise _OtherwiseError(f"{answer.status_code} in place of a range", answer.status_code)
        found = web.about_of(answer)
        content: bytes = answer.content
        if len(content) != int(said[2]) - int(said[1]) + 1:
            raise _OtherwiseError("the connection broke off", answer.status_code)
        return About(found.tag, found.changed, int(said[3]), found.changed_seconds), content


class PageRanges(io.RawIOBase):
    """A file of the web that is read where it stands. Reading raises ``SourceError`` where it is another by now."""

    def __init__(self, address: str, about: About) -> None:
        requests = of_extra("requests", "files of the web are fetched with it", "web")
        self._address, self._about, self._place = address, about, 0
        self._session, self._broken = requests.Session(), requests.RequestException

    def readable(self) -> bool:
        """It is there to be read."""
        return True

    def seekable(self) -> bool:
        """Any range of it can be asked for."""
        return True

    def tell(self) -> int:
        """Return the place of the next byte."""
        return self._place

    def seek(self, place: int, whence: int = io.SEEK_SET) -> int:
        """Go to a place from the start, from here or from the end."""
        self._place = place + {io.SEEK_SET: 0, io.SEEK_CUR: self._place, io.SEEK_END: self._about.size_bytes}[whence]
        return self._place

    def read(self, size: int = -1) -> bytes:
        """Return the next bytes, ``size`` of them unless the file ends before. Raises ``SourceError``."""
        end = self._about.size_bytes if size < 0 else min(self._about.size_bytes, self._place + size)
        if end <= self._place:
            return b""
        content = self._tried(f"bytes={self._place}-{end - 1}")
        self._place += len(content)
        return content

    def close(self) -> None:
        """Let the connection go."""
        if not self.closed:
            self._session.close()
        super().close()

    def _tried(self, wanted: str) -> bytes:
        wait, said = web.FIRST_WAIT_SECONDS, ""
        for attempt in range(web.ATTEMPTS):
            try:
                found, content = _range(self._session, self._address, wanted, self._about)
                if (found.tag, found.size_bytes) == (self._about.tag, self._about.size_bytes):
                    return content
                raise _another(self._address)
            except _OtherwiseError as error:
                said = str(error)
                if error.status == HTTPStatus.PRECONDITION_FAILED or error.status == HTTPStatus.OK:
                    raise _another(self._address) from error
                if HTTPStatus.BAD_REQUEST <= error.status < HTTPStatus.INTERNAL_SERVER_ERROR:
                    raise refused(self._address, said) from error
            except self._broken as error:
                said = web.said_of(error)
            if attempt < web.ATTEMPTS - 1:
                time.sleep(wait)
                wait *= 2
        raise refused(self._address, f"{said}; it was tried {web.ATTEMPTS} times")


def page_there(address: str, about: About) -> Any:
    """Open a file of the web to be read where it stands. Raises ``SourceError``."""
    import pyarrow as pa

    return pa.PythonFile(PageRanges(address, about), mode="r")


def _another(address: str) -> SourceError:
    return SourceError(f"{address} is another file by now", mend=Mend("read it anew"))
