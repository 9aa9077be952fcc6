"""A file of the web: asked for once, gone on with where its connection breaks, whole or not there (RFC 9110)."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import closing
from email.utils import parsedate_to_datetime
from http import HTTPStatus
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import secret_of
from yardcut.core.sources.elsewhere.coming_files import About, begin, refused, write_pieces
from yardcut.core.sources.elsewhere.extras import of_extra

_SECONDS = (10.0, 30.0)
"""For a connection, and for the next bytes of it."""
ATTEMPTS, FIRST_WAIT_SECONDS = 5, 0.3
_PIECE_BYTES = 1 << 20
_HELP = {
    HTTPStatus.UNAUTHORIZED: "the standard place for names and passwords of hosts is ~/.netrc",
    HTTPStatus.FORBIDDEN: "the standard place for names and passwords of hosts is ~/.netrc",
    HTTPStatus.NOT_FOUND: "check the address",
}


def get_page(address: str, part: Path, known: About | None, token: CancelToken, progress: Progress) -> About | None:
    """Fetch a file, unless it is the one that is known. A connection that breaks is tried again, from where it broke.

    Raises ``SourceError``, ``StoppedError`` and ``OSError``.
    """
    requests = of_extra("requests", "files of the web are fetched with it", "web")
    from urllib3.exceptions import HTTPError

    about, done, wait = About(), 0, FIRST_WAIT_SECONDS
    progress.begin(f"asking {address.split('/')[2]}", 1)
    for attempt in range(ATTEMPTS):
        try:
            with requests.Session() as session, closing(_asked(session, address, known, about, done)) as answer:
                if answer.status_code == HTTPStatus.NOT_MODIFIED and known is not None:
                    return None
                if answer.status_code != HTTPStatus.PARTIAL_CONTENT or not _goes_on(answer, done):
                    done = 0
                    _check(address, answer)
                    about = about_of(answer)
                begin(progress, part.stem, about.size_bytes)
                done = write_pieces(_pieces(answer), part, done, token, progress)
            if about.size_bytes in (-1, done):
                return about
            said = f"{done:,} of {about.size_bytes:,} bytes came"
        except (requests.RequestException, HTTPError) as error:
            said = said_of(error)
            done = part.stat().st_size if part.exists() and about != About() else 0
        if attempt < ATTEMPTS - 1:
            token.wait(wait)
            wait *= 2
    part.unlink(missing_ok=True)
    raise refused(address, f"{said}; it was tried {ATTEMPTS} times")


def _asked(session: Any, address: str, known: About | None, about: About, done: int) -> Any:
    headers = {"Accept-Encoding": "identity", "User-Agent": "yardcut"}
    if done and names_it(about):
        headers |= {"Range": f"bytes={done}-", "If-Range": about.tag or about.changed}
    elif known is not None:
        headers |= {"If-None-Match": known.tag} if known.tag else {}
        headers |= {"If-Modified-Since": known.changed} if known.changed else {}
    return answered(session, address, headers)


def answered(session: Any, address: str, headers: dict[str, str]) -> Any:
    """Ask for an address, with the name and password it came with; the answer's bytes are still on their way.

    Raises ``requests.RequestException``.
    """
    secret = secret_of(address)
    user = address.split("/")[2].rpartition("@")[0]
    return session.get(
        address, headers=headers, stream=True, timeout=_SECONDS, auth=(user, secret) if secret is not None else None
    )


def names_it(about: About) -> bool:
    """Tell whether an answer said which file it is, so that the rest of the same can be asked for."""
    return bool(about.tag and not about.tag.startswith("W/")) or bool(about.changed)


def _goes_on(answer: Any, done: int) -> bool:
    return str(answer.headers.get("Content-Range", "")).startswith(f"bytes {done}-")


def _check(address: str, answer: Any) -> None:
    status = answer.status_code
    if status == HTTPStatus.OK:
        return
    if status >= HTTPStatus.INTERNAL_SERVER_ERROR:
        answer.raise_for_status()  # tried again
    phrase = HTTPStatus(status).phrase if status in list(HTTPStatus) else ""
    help_with = _HELP.get(HTTPStatus(status)) if phrase else None
    raise SourceError(f"{address}: {status} {phrase}".rstrip(), mend=Mend(help_with) if help_with else None)


def about_of(answer: Any) -> About:
    """Return what an answer says of the file it brings."""
    headers = answer.headers
    changed = str(headers.get("Last-Modified", ""))
    try:
        seconds = parsedate_to_datetime(changed).timestamp() if changed else time.time()
    except (TypeError, ValueError):
        seconds = time.time()
    size = str(headers.get("Content-Length", ""))
    plain = headers.get("Content-Encoding", "identity") == "identity"
    return About(str(headers.get("ETag", "")), changed, int(size) if size.isdecimal() and plain else -1, seconds)


def _pieces(answer: Any) -> Iterator[bytes]:
    # what has come is taken, however little: behind a connection that breaks it is not asked for again
    while piece := answer.raw.read1(_PIECE_BYTES):
        yield piece


def said_of(error: Exception) -> str:
    """Return the cause of an error in one sentence."""
    text = str(error)
    for words, said in (
        ("refused", "the connection was refused"), ("timed out", "no answer came in time"),
        ("Name or service not known", "there is no such host"), ("name resolution", "there is no such host"),
        ("certificate", "its certificate is not trusted"), ("IncompleteRead", "the connection broke off"),
        ("Connection reset", "the connection broke off"), ("Remote end closed", "the connection broke off"),
    ):  # fmt: skip
        if words in text:
            return said
    return (text.splitlines() or [type(error).__name__])[0][:200]
