"""A slice saved as an object of a bucket: the same bytes as the file here, whole or not there."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest

from bucket_server import a_bucket
from commands import yardcut
from tui.driving import Driven, drive
from yardcut.core.errors import StoppedError, TargetError, TargetExistsError
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere import addresses
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.writers import bucket_objects
from yardcut.core.writers.bucket_objects import BucketObject


@pytest.fixture(scope="module")
def bucket() -> Iterator[Any]:
    with a_bucket("slices") as files:
        yield files


@pytest.fixture
def packs(tmp_path: Path) -> Path:
    path = tmp_path / "packs.csv"
    path.write_text("ticket,boards\n" + "".join(f"T{row:04},{row % 90}\n" for row in range(2000)))
    return path


def there(files: Any) -> list[str]:
    from pyarrow import fs

    return sorted(info.path for info in files.get_file_info(fs.FileSelector("slices", recursive=True)) if info.is_file)


def content(files: Any, key: str) -> bytes:
    with files.open_input_stream(key) as stream:
        return bytes(stream.read())


@pytest.mark.few(3)
@pytest.mark.parametrize("name", ["oak.csv", "oak.csv.gz", "oak.parquet", "oak.arrow", "oak.jsonl", "an oak, 2031.tsv"])
def test_an_object_holds_what_a_file_here_would(bucket: Any, packs: Path, tmp_path: Path, name: str) -> None:
    lines = ("-l", "keep boards > 60", "-l", "order boards DESC")
    here = yardcut("cut", packs, *lines, "-l", f'save "{name}"', cwd=tmp_path)
    assert here.returncode == 0, here.stderr
    sent = yardcut("cut", packs, *lines, "-l", f'save "s3://slices/year/{name}"', cwd=tmp_path)
    assert sent.returncode == 0, sent.stderr
    assert f"wrote s3://slices/year/{name}: 638 rows read back before" in sent.stderr
    assert f"slices/year/{name}" in there(bucket)
    got = content(bucket, f"slices/year/{name}")
    if name.endswith(("csv", "tsv", "jsonl")):
        assert hashlib.sha256(got).digest() == hashlib.sha256((tmp_path / name).read_bytes()).digest()
    assert open_table(SourceSpec((f"s3://slices/year/{name}",))).rows == 638
    addresses.read_all_anew()
    assert not [key for key in there(bucket) if key.endswith(".part")]


def test_an_object_that_is_there_stays_unless_it_may_be_replaced(bucket: Any, packs: Path, tmp_path: Path) -> None:
    line = 'save "s3://slices/kept.csv"'
    assert yardcut("cut", packs, "-l", line, cwd=tmp_path).returncode == 0
    before = content(bucket, "slices/kept.csv")
    again = yardcut("cut", packs, "-l", "keep boards = 1", "-l", line, cwd=tmp_path)
    assert again.returncode == 1
    assert "s3://slices/kept.csv is there already" in again.stderr
    assert content(bucket, "slices/kept.csv") == before
    assert yardcut("cut", packs, "-l", "keep boards = 1", "-l", f"{line} replace", cwd=tmp_path).returncode == 0
    assert content(bucket, "slices/kept.csv").count(b"\n") == 24


def test_a_list_sends_to_a_bucket_only_where_that_is_agreed(bucket: Any, packs: Path, tmp_path: Path) -> None:
    (tmp_path / "own.cut").write_text(
        'yardcut 1\nsource "packs.csv"\n\nkeep boards = 2\nsave "s3://slices/agreed.csv"\n'
    )
    assert "writes s3://slices/agreed.csv" in yardcut("check", "own.cut", cwd=tmp_path).stdout
    refused = yardcut("run", "own.cut", cwd=tmp_path)
    assert (refused.returncode, "allow that with --to-server" in refused.stderr) == (1, True)
    assert "slices/agreed.csv" not in there(bucket)
    assert yardcut("run", "own.cut", "--to-server", cwd=tmp_path).returncode == 0
    assert "slices/agreed.csv" in there(bucket)


@pytest.mark.parametrize(
    ("line", "said"),
    [
        ('save "s3://slices/a/{boards}.csv" one file per boards', "has no one file per"),
        ('save "s3://slices/a.csv" with list', "has no with list"),
        ('save "s3://slices/a.unknown"', "does not say in which format"),
        ('save "s3://nowhere/a.csv"', "nowhere"),
    ],
)
def test_what_cannot_be_sent_is_said(bucket: Any, packs: Path, tmp_path: Path, line: str, said: str) -> None:
    before = there(bucket)
    done = yardcut("cut", packs, "-l", line, cwd=tmp_path)
    assert done.returncode in (1, 2)
    assert said in done.stderr, done.stderr
    assert there(bucket) == before


def test_stopping_and_failing_leave_nothing_there(bucket: Any, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "large.csv"
    path.write_bytes(b"x" * 100_000)
    monkeypatch.setattr(bucket_objects, "_PIECE_BYTES", 1000)
    token = CancelToken()

    class Stopping(Progress):
        def advance(self, amount: int) -> None:
            token.cancel()

    with pytest.raises(StoppedError):
        BucketObject("s3://slices/stopped.csv").put(path, token, Stopping())
    assert not [key for key in there(bucket) if "stopped" in key]

    class Shrinking(Progress):
        def advance(self, amount: int) -> None:
            if path.stat().st_size == 100_000:
                path.write_bytes(b"x" * 5000)

    with pytest.raises(TargetError, match="not all of 100,000 bytes"):
        BucketObject("s3://slices/short.csv").put(path, CancelToken(), Shrinking())
    assert not [key for key in there(bucket) if "short" in key]


def test_whoever_comes_first_stays(bucket: Any, tmp_path: Path) -> None:
    path = tmp_path / "a.csv"
    path.write_bytes(b"mine\n")

    class Slow(Progress):
        def advance(self, amount: int) -> None:
            with bucket.open_output_stream("slices/first.csv") as out:
                out.write(b"theirs\n")

    with pytest.raises(TargetExistsError):
        BucketObject("s3://slices/first.csv").put(path, CancelToken(), Slow())
    assert content(bucket, "slices/first.csv") == b"theirs\n"
    assert not [key for key in there(bucket) if key.endswith(".part")]


@pytest.mark.long
def test_the_app_sends_a_slice_and_replaces_it_when_told(bucket: Any, packs: Path) -> None:
    async def save(app: Driven, *keys: str) -> None:
        await app.press("ctrl+s")
        await app.until("save slice ▸")
        await app.type("s3://slices/app.csv")
        await app.until("as s3://slices/app.csv", "lets it take its place")
        await app.press(*keys, "enter")

    async def steps(app: Driven) -> None:
        await app.until("2,000 rows × 2 columns")
        await save(app)
        await app.until("2,000 rows read back before")
        await app.line("keep boards = 3")
        await save(app)
        await app.until("s3://slices/app.csv is there already")
        await app.press("escape")
        await app.until("Esc put away", gone=True)
        await save(app, "f5")
        await app.until("23 rows read back before")

    drive(packs, steps, size=(200, 47))
    assert content(bucket, "slices/app.csv").count(b"\n") == 24
