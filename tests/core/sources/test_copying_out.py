"""Rows copied out of a server: those larger than a piece, and what is left when reading breaks off."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any

import pytest

from postgres_server import PostgresServer, a_server
from yardcut.core.expressions.frame import source_frame
from yardcut.core.sources.elsewhere import copying_out
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import QueryLine, SourceSpec

pytest.importorskip("psycopg")


@pytest.fixture(scope="module")
def server() -> Iterator[PostgresServer]:
    with a_server() as found:
        yield found


def spec_of(server: PostgresServer, query: str) -> SourceSpec:
    return SourceSpec((server.address(),), (QueryLine(None, query),))


def test_rows_larger_than_a_piece_are_read(server: PostgresServer, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(copying_out, "_PIECE_BYTES", 1 << 12)
    query = "SELECT n, repeat(chr(97 + n % 26), n * 2000) AS t FROM generate_series(1, 40) AS n"
    frame = source_frame(open_table(spec_of(server, query=query)))
    numbers, texts = frame.page(0, 40, (0, 1)).cells
    assert list(zip(numbers, map(len, filter(None, texts)), strict=True)) == [(str(n), n * 2000) for n in range(1, 41)]


def test_what_breaks_off_leaves_no_reader_behind(server: PostgresServer, monkeypatch: pytest.MonkeyPatch) -> None:
    import psycopg

    read, finish = psycopg.Copy.read, psycopg.Copy.finish
    inside = {"reading": 0, "ending": 0}
    together = []

    def read_slowly(copy: psycopg.Copy[Any]) -> Any:
        inside["reading"] += 1
        together.append(sum(inside.values()))
        time.sleep(0.003)
        try:
            return read(copy)
        finally:
            inside["reading"] -= 1

    def end(copy: psycopg.Copy[Any], error: BaseException | None) -> None:
        inside["ending"] += 1
        together.append(sum(inside.values()))
        finish(copy, error)
        inside["ending"] -= 1

    monkeypatch.setattr(copying_out, "_PIECE_BYTES", 1 << 12)
    monkeypatch.setattr(psycopg.Copy, "read", read_slowly)
    monkeypatch.setattr(psycopg.Copy, "finish", end)
    query = "SELECT n, repeat(chr(97 + n % 26), 900 * (1 + n % 9)) AS t FROM generate_series(1, 40) AS n"
    assert open_table(spec_of(server, query=query)).rows == 40  # some rows are larger than a piece: it is begun again
    assert max(together) == 1
