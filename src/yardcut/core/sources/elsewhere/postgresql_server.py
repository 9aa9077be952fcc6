"""Connections to a PostgreSQL server, each one transaction at one time of the server; all but a save's read only."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import AbstractContextManager, contextmanager, suppress
from typing import TYPE_CHECKING, Any

from yardcut.core.errors import Mend, SourceError, StoppedError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.elsewhere.addresses import secret_of
from yardcut.core.sources.elsewhere.extras import of_extra

if TYPE_CHECKING:
    from psycopg import Connection

_CONNECT_SECONDS = 15
_LOOK_SECONDS, _AGAIN_SECONDS = 0.05, 0.3
_LEAST_VERSION = 110000
_SETTINGS = {
    "TimeZone": "UTC", "DateStyle": "ISO, YMD", "IntervalStyle": "iso_8601", "bytea_output": "hex",
    "extra_float_digits": "1", "client_encoding": "UTF8",
}  # fmt: skip
_REFUSALS = {
    "28P01": "the standard places for a password are ~/.pgpass, a service file, and PGPASSWORD",
    "28000": "the standard places for a password are ~/.pgpass, a service file, and PGPASSWORD",
    "3D000": "the last part of the address names the database",
    "42501": "whoever owns it can grant SELECT",
}


def reading_server(address: str, token: CancelToken) -> AbstractContextManager[Connection[Any]]:
    """Connect to a server for one read-only transaction. Raises as :func:`server_connection` does."""
    return server_connection(address, token, writes=False)


@contextmanager
def server_connection(address: str, token: CancelToken, *, writes: bool) -> Iterator[Connection[Any]]:
    """Connect to a server for one transaction, in which everything is as it was when it began.

    What is under way is cancelled on the server when the token says so, which raises ``StoppedError``. Raises
    ``SourceError`` where the server cannot be reached, refuses, or is too old, and where psycopg is not installed.
    """
    psycopg = driver()
    try:
        connection = psycopg.connect(
            address, password=secret_of(address), connect_timeout=_CONNECT_SECONDS, application_name="yardcut"
        )
    except (psycopg.Error, ValueError) as error:
        raise refused(address, error) from error
    done = threading.Event()
    watcher = threading.Thread(target=_cancel_when_told, args=(connection, token, done), daemon=True)
    try:
        if connection.info.server_version < _LEAST_VERSION:
            raise SourceError(
                f"{address} is PostgreSQL {connection.info.server_version // 10000}",
                mend=Mend(f"{_LEAST_VERSION // 10000} is the oldest that can be read"),
            )
        connection.autocommit = True
        for name, value in _SETTINGS.items():
            connection.execute("SELECT set_config(%s, %s, false)", (name, value))
        connection.autocommit = False
        connection.isolation_level = psycopg.IsolationLevel.REPEATABLE_READ
        connection.read_only = not writes
        watcher.start()
        yield connection
    except psycopg.Error as error:
        if token.cancelled:
            raise StoppedError from error
        raise refused(address, error) from error
    finally:
        done.set()
        if watcher.is_alive():
            watcher.join()
        with suppress(psycopg.Error):
            connection.close()


def driver() -> Any:
    """Return psycopg. Raises ``SourceError`` that names what installs it."""
    return of_extra("psycopg", "a PostgreSQL server is read with it", "postgresql")


def refused(address: str, error: Exception) -> SourceError:
    """Return what to say of an error of the server or of the way there; never a password or a value."""
    lines = [line.strip() for line in str(error).splitlines() if line.strip()]
    said = lines[0] if lines else type(error).__name__
    secret = secret_of(address)
    if secret:
        said = said.replace(secret, "…")
    help_with = _REFUSALS.get(getattr(error, "sqlstate", None) or "")
    if help_with is None and "password" in said:
        help_with = _REFUSALS["28P01"]
    return SourceError(f"{address}: {said}", mend=Mend(help_with) if help_with else None)


def _cancel_when_told(connection: Connection[Any], token: CancelToken, done: threading.Event) -> None:
    """Cancel what is under way on the server, again and again: what is about to begin is not under way yet."""
    while not done.wait(_LOOK_SECONDS):
        if token.cancelled:
            with suppress(Exception):  # the connection may be gone by now, and then there is nothing to cancel
                connection.cancel_safe(timeout=1.0)
            done.wait(_AGAIN_SECONDS)
