"""A PostgreSQL server of a test's own, where its programs are installed; else the test is passed over with a word."""

from __future__ import annotations

import csv
import io
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from urllib.parse import quote

import pytest


class PostgresServer:
    """A server of its own in a folder of its own, reached by a socket there."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._user = ["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []
        if self._user:
            shutil.chown(folder, "postgres")
            folder.chmod(0o700)
        self._do(
            "initdb", "-D", str(folder / "data"), "-E", "UTF8", "--locale=C.UTF-8", "-A", "trust", "-U", "postgres"
        )
        options = f"-k {folder} -c listen_addresses='' -F"
        self._do("pg_ctl", "-D", str(folder / "data"), "-w", "-o", options, "-l", str(folder / "log"), "start")

    def _do(self, *words: str, given: str | None = None) -> str:
        done = subprocess.run(
            [*self._user, *words], input=given, capture_output=True, text=True, cwd=self.folder,
            env={**os.environ, "LC_ALL": "C.UTF-8"}, check=False,
        )  # fmt: skip
        assert done.returncode == 0, done.stderr
        return done.stdout

    def address(self, database: str = "postgres") -> str:
        return f"postgresql://postgres@/{database}?host={quote(str(self.folder), safe='')}"

    def rows(self, statement: str, database: str = "postgres") -> list[list[str]]:
        """Run statements, and return what they give as texts, a missing value as the sign of the empty set."""
        said = self._do(
            "psql", "-h", str(self.folder), "-U", "postgres", "-d", database, "-v", "ON_ERROR_STOP=1", "-q", "--csv",
            "-t", "-P", "null=\u2205", "-f", "-", given=statement,
        )  # fmt: skip
        return list(csv.reader(io.StringIO(said, newline="")))

    def stop(self, mode: str = "immediate") -> None:
        self._do("pg_ctl", "-D", str(self.folder / "data"), "-m", mode, "stop")


@contextmanager
def a_server() -> Iterator[PostgresServer]:
    """Start a server as long as the block lasts."""
    if not all(map(shutil.which, ("initdb", "pg_ctl", "psql"))) or (os.geteuid() == 0 and not shutil.which("runuser")):
        pytest.skip("there is no PostgreSQL here: apt-get install postgresql")
    folder = Path(tempfile.mkdtemp(prefix="yardcut-pg-", dir="/tmp"))
    try:
        server = PostgresServer(folder)
        try:
            yield server
        finally:
            server.stop()
    finally:
        shutil.rmtree(folder, ignore_errors=True)
