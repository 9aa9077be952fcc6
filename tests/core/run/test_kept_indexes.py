"""Indexes of a second table's keys that are found in the cache: what they find, and what is done about broken ones."""

from __future__ import annotations

import random
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest

from helpers import WriteTable, run_lines
from yardcut.core.matching import kept_index
from yardcut.core.matching.key_index import KeyIndex, index_keys
from yardcut.core.run.executing.results import LineResult
from yardcut.core.sources.store import cache
from yardcut.core.sources.store.own_folders import stores_folder
from yardcut.core.table.stored_table import Table

LINES = {
    "texts": ("keep t IN {other} column t", ["t"]),
    "numbers": ("keep n IN {other} column n", ["n"]),
    "both": ("keep (t, n) IN {other} column (t, n)", ["t", "n"]),
    "capitals": ("keep t IN {other} column t ignoring case", ["t"]),
}


@pytest.fixture(autouse=True)
def _small_ones_are_kept(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(kept_index, "KEPT_FROM", 2)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))


def kept() -> list[Path]:
    return sorted(stores_folder().glob("keys-*"))


def rows(seed: int, count: int) -> Iterator[tuple[str, str, str]]:
    chance = random.Random(seed)
    for row in range(count):
        text = chance.choice(["Oak", "oak", "ash", "", "\u00fc\u6f22", f"x{chance.randrange(40)}"])
        yield text, str(chance.choice([7, "", chance.randrange(60), 2**53 + 1])), str(row)


def table_and_other(table_of: WriteTable, tmp_path: Path, seed: int) -> tuple[Table, str]:
    other = tmp_path / "other.csv"
    other.write_text("t,n,o\n" + "".join(",".join(row) + "\n" for row in rows(seed, 50)), encoding="utf-8")
    return table_of(["t", "n", "row"], [list(row) for row in rows(seed + 1, 80)]), f'"{other}"'


def left(result: LineResult) -> list[str | None]:
    page = result.frame.page(0, result.rows.count, [2])
    return list(page.cells[0]) if page.cells else []


def never(*given: object, **named: object) -> KeyIndex:
    raise AssertionError("it is made again")


@pytest.mark.parametrize("what", LINES)
def test_it_is_made_once(table_of: WriteTable, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, what: str) -> None:
    table, other = table_and_other(table_of, tmp_path, 3)
    line = LINES[what][0].format(other=other)
    with monkeypatch.context() as none_kept:
        none_kept.setattr(kept_index, "KEPT_FROM", 1000)
        expected = left(run_lines(table, line)[-1])
    assert not kept()
    assert expected
    assert left(run_lines(table, line)[-1]) == expected
    assert len(kept()) == 1
    monkeypatch.setattr(kept_index, "index_keys", never)
    assert left(run_lines(table, line)[-1]) == expected
    with pytest.raises(AssertionError, match="made again"):
        run_lines(table, LINES["both" if what != "both" else "texts"][0].format(other=other))


def test_another_content_is_another_index(table_of: WriteTable, tmp_path: Path) -> None:
    table, other = table_and_other(table_of, tmp_path, 5)
    line = LINES["texts"][0].format(other=other)
    run_lines(table, line)
    Path(other.strip('"')).write_text("t,n,o\nash,1,1\nelm,2,2\nfir,3,3\n")
    found = left(run_lines(table, line)[-1])
    assert len(kept()) == 2
    assert found == [row for text, _, row in rows(6, 80) if text == "ash"]


def test_a_program_that_reads_tables_in_another_way_makes_its_own(
    table_of: WriteTable, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    table, other = table_and_other(table_of, tmp_path, 4)
    line = LINES["texts"][0].format(other=other)
    run_lines(table, line)
    monkeypatch.setattr(kept_index, "FORMAT", kept_index.FORMAT + 1)
    run_lines(table, line)
    assert len(kept()) == 2


@pytest.mark.few(3)
@pytest.mark.parametrize("how", ["cut short", "gone", "of other rows", "no numbers", "one bit", "no sums"])
def test_a_broken_one_is_made_again(table_of: WriteTable, tmp_path: Path, how: str) -> None:
    table, other = table_and_other(table_of, tmp_path, 7)
    line = LINES["both"][0].format(other=other)
    expected = left(run_lines(table, line)[-1])
    (folder,) = kept()
    for path in sorted(folder.glob("*.npy" if how != "no sums" else "*.json")):
        whole = path.read_bytes()
        if how == "cut short":
            path.write_bytes(whole[: len(whole) - 5])
        elif how == "one bit":
            path.write_bytes(whole[:-1] + bytes([whole[-1] ^ 1]))
        elif how in ("gone", "no sums"):
            path.unlink()
        elif how == "of other rows":
            array = np.load(path)
            np.save(path, array[: len(array) // 2])
        else:
            path.write_bytes(b"x" * len(whole))
        assert left(run_lines(table, line)[-1]) == expected, path.name
        assert kept() == [folder]
        assert path.read_bytes() == whole


def test_where_nothing_can_be_kept_it_stays_in_memory(
    table_of: WriteTable, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    table, other = table_and_other(table_of, tmp_path, 9)
    line = LINES["texts"][0].format(other=other)
    expected = left(run_lines(table, line)[-1])
    for path in kept():
        cache.shutil.rmtree(path)

    def full(*given: object, **named: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(kept_index, "place_folder", full)
    assert left(run_lines(table, line)[-1]) == expected
    assert not kept()
    assert not list(stores_folder().glob("building-*"))


def test_what_is_kept_finds_what_was_made() -> None:
    from yardcut.core.table.text_keys import plain_of
    from yardcut.core.values.kinds import Kind

    texts = [text or None for text, _, _ in rows(11, 300)]
    asked = plain_of([text or None for text, _, _ in rows(12, 300)])
    made = index_keys([plain_of(texts)], [Kind.TEXT])
    for _ in range(2):
        found = kept_index.kept_index("test", [plain_of(texts)], [Kind.TEXT], ignoring_case=False)
        assert found.find([asked]).tolist() == made.find([asked]).tolist()
        assert found.rows.tolist() == made.rows.tolist()
        assert found.without == made.without
