from __future__ import annotations

import csv
import datetime
import errno
import os
import socket
import threading
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import pytest
from pyarrow import parquet

from helpers import WriteTable, run_lines
from yardcut.core.errors import StoppedError, TargetError, TargetExistsError
from yardcut.core.outgoing import Outgoing, Protected
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.table.stored_table import Table
from yardcut.core.writers.formats import delimited
from yardcut.core.writers.formats.fifo import open_fifo
from yardcut.core.writers.plans import plan_of
from yardcut.core.writers.saving_slices import Written, save_slice

ROWS = [
    ['oak, "A"', 1, 1.5, "true", "2031-03-01", "2031-03-01 10:00:00"],
    ["two\nlines", None, 0.1, "", "", ""],
    [None, -7, None, "false", "1999-12-31", "1999-12-31 23:59:59"],
    ["é 🌲", 2**62, 1e300, "true", "2031-03-02", "2031-03-02 00:00:00"],
]


@pytest.fixture
def table(table_of: WriteTable) -> Table:
    return table_of(["word", "whole", "real", "flag", "day", "at"], ROWS)


def save(table: Table, path: Path, *lines: str, replace: bool = False, token: CancelToken | None = None) -> Written:
    result = run_lines(table, *(lines or ("columns all",)))[-1]
    piece = result.frame
    return save_slice(
        piece, Outgoing(path, Protected.of([path.parent / "table.csv"]), replace), plan_of(path),
        token=token or CancelToken(), progress=Progress(),
    )  # fmt: skip


def test_csv_is_read_back_by_the_csv_module(table: Table, tmp_path: Path) -> None:
    written = save(table, tmp_path / "out.csv")
    assert written.rows == 4
    with open(tmp_path / "out.csv", encoding="utf-8", newline="") as file:
        rows = list(csv.reader(file))
    assert rows[0] == ["word", "whole", "real", "flag", "day", "at"]
    expected = [["" if cell is None else str(cell) for cell in row] for row in ROWS]
    expected[3][2] = "1e+300"
    assert rows[1:] == expected


def test_only_what_needs_quotes_is_quoted(table: Table, tmp_path: Path) -> None:
    save(table, tmp_path / "out.tsv", "keep whole = 1", "columns word, whole")
    assert (tmp_path / "out.tsv").read_text() == 'word\twhole\n"oak, ""A"""\t1\n'


def test_parquet_is_read_back_by_pyarrow(table: Table, tmp_path: Path) -> None:
    save(table, tmp_path / "out.parquet", "columns word AS wood, whole, real, flag, day, at")
    found = parquet.read_table(tmp_path / "out.parquet").to_pydict()
    assert found == {
        "wood": ['oak, "A"', "two\nlines", None, "é 🌲"],
        "whole": [1, None, -7, 2**62],
        "real": [1.5, 0.1, None, 1e300],
        "flag": [True, None, False, True],
        "day": [datetime.date(2031, 3, 1), None, datetime.date(1999, 12, 31), datetime.date(2031, 3, 2)],
        "at": [datetime.datetime(2031, 3, 1, 10), None, datetime.datetime(1999, 12, 31, 23, 59, 59),
               datetime.datetime(2031, 3, 2)],
    }  # fmt: skip


def test_rows_leave_in_the_order_of_the_cut(table: Table, tmp_path: Path) -> None:
    save(table, tmp_path / "out.csv", "order whole DESC", "columns whole")
    assert (tmp_path / "out.csv").read_text() == f'whole\n{2**62}\n1\n-7\n""\n'


def test_a_value_set_aside_leaves_with_its_text(table_of: WriteTable, tmp_path: Path) -> None:
    cells = [[str(row), "x" * 40] for row in range(40_000)]
    cells[39_000][0] = "--"
    table = table_of(["n", "pad"], cells)
    assert table.columns[0].info.set_aside == 1
    save(table, tmp_path / "out.csv", "keep SOURCE_ROW BETWEEN 39000 AND 39002", "columns n")
    assert (tmp_path / "out.csv").read_text() == "n\n38999\n--\n39001\n"


def test_what_exists_is_not_written_over(table: Table, tmp_path: Path) -> None:
    (tmp_path / "out.csv").write_text("mine")
    with pytest.raises(TargetExistsError, match=r"out\.csv exists"):
        save(table, tmp_path / "out.csv")
    assert (tmp_path / "out.csv").read_text() == "mine"
    assert save(table, tmp_path / "out.csv", replace=True).rows == 4


def test_the_source_is_never_written_to(table: Table, tmp_path: Path) -> None:
    source = tmp_path / "table.csv"
    before = source.read_bytes()
    with pytest.raises(TargetError, match="a source is never written to"):
        save(table, source, replace=True)
    (tmp_path / "other.csv").symlink_to(source)
    with pytest.raises(TargetError, match="a source is never written to"):
        save(table, tmp_path / "other.csv", replace=True)
    assert source.read_bytes() == before


def test_targets_that_cannot_be_written_say_why(table: Table, tmp_path: Path) -> None:
    with pytest.raises(TargetError, match="there is no directory"):
        save(table, tmp_path / "none" / "out.csv")
    (tmp_path / "folder.csv").mkdir()
    with pytest.raises(TargetError, match="is a directory"):
        save(table, tmp_path / "folder.csv")
    with pytest.raises(TargetError, match="does not say in which format"):
        save(table, tmp_path / "out")
    with pytest.raises(TargetError, match="there is no format cvs"):
        plan_of(Path("x"), "cvs")


def left_over(folder: Path) -> list[str]:
    return [path.name for path in folder.iterdir() if "partial" in path.name]


def test_a_full_disk_leaves_nothing_behind(table: Table, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(delimited, "write_delimited", full)
    with pytest.raises(TargetError, match="the disk of .* is full; nothing was written"):
        save(table, tmp_path / "out.csv")
    assert not (tmp_path / "out.csv").exists()
    assert left_over(tmp_path) == []


def test_a_really_full_device_is_reported(table: Table) -> None:
    if not Path("/dev/full").exists():
        pytest.skip("this system has no /dev/full")
    with pytest.raises(OSError, match="No space left"):
        result = run_lines(table, "columns all")[-1]
        piece = result.frame
        delimited.write_delimited(piece, Path("/dev/full"), plan_of(Path("x.csv")), CancelToken(), Progress())


def test_a_stopped_save_leaves_nothing_behind(table: Table, tmp_path: Path) -> None:
    token = CancelToken()
    token.cancel()
    with pytest.raises(StoppedError):
        save(table, tmp_path / "out.csv", token=token)
    assert [path for path in tmp_path.iterdir() if path.name.startswith((".out", "out"))] == []


def test_a_slice_without_rows_has_a_header(table: Table, tmp_path: Path) -> None:
    assert save(table, tmp_path / "out.csv", "keep 1 = 2").rows == 0
    assert (tmp_path / "out.csv").read_text() == "word,whole,real,flag,day,at\n"
    assert save(table, tmp_path / "out.parquet", "keep 1 = 2").rows == 0


def test_a_named_pipe_gets_the_rows_and_stays_a_pipe(table: Table, tmp_path: Path) -> None:
    save(table, tmp_path / "file.csv")
    pipe = tmp_path / "pipe.csv"
    os.mkfifo(pipe)
    with ThreadPoolExecutor(1) as threads:
        got = threads.submit(pipe.read_bytes)
        written = save(table, pipe)
        assert got.result(30) == (tmp_path / "file.csv").read_bytes()
    assert (written.rows, written.size_bytes) == (table.rows, None)
    assert pipe.is_fifo()
    assert left_over(tmp_path) == []
    os.mkfifo(tmp_path / "pipe.parquet")
    with pytest.raises(TargetError, match="is a pipe, and parquet is written"):
        save(table, tmp_path / "pipe.parquet")


@pytest.mark.parametrize("is_read", [False, True])
def test_a_pipe_nobody_reads_from_can_be_given_up(tmp_path: Path, is_read: bool) -> None:
    pipe = tmp_path / "pipe.csv"
    os.mkfifo(pipe)
    reader = os.open(pipe, os.O_RDONLY | os.O_NONBLOCK) if is_read else None
    token = CancelToken()
    threading.Timer(0.2, token.cancel).start()
    with pytest.raises(StoppedError), open_fifo(pipe, token) as file:
        while True:
            file.write("oak," * 10_000)
    if reader is not None:
        os.close(reader)


def test_a_link_is_followed_and_said(table: Table, tmp_path: Path) -> None:
    (tmp_path / "kept").mkdir()
    (tmp_path / "link.csv").symlink_to(tmp_path / "kept" / "real.csv")
    written = save(table, tmp_path / "link.csv")
    assert written.sentence().startswith(f"wrote {tmp_path / 'link.csv'}, a link to {tmp_path / 'kept' / 'real.csv'}: ")
    assert (tmp_path / "link.csv").is_symlink()
    (tmp_path / "astray.csv").symlink_to(tmp_path / "none" / "real.csv")
    with pytest.raises(TargetError, match="there is no directory .*none"):
        save(table, tmp_path / "astray.csv")


def test_devices_and_sockets_are_no_targets(table: Table, tmp_path: Path) -> None:
    with socket.socket(socket.AF_UNIX) as listening:
        listening.bind(str(tmp_path / "socket.csv"))
        (tmp_path / "null.csv").symlink_to("/dev/null")
        for name in ("socket.csv", "null.csv"):
            with pytest.raises(TargetError, match="is a device or a socket"):
                save(table, tmp_path / name, replace=True)
