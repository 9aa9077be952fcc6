"""A declared kind is read the quick way where the values have it anyway: with the same result as the careful way."""

from __future__ import annotations

from pathlib import Path

import pytest

from yardcut.core.language.syntax.source_lines import parse_sub_line
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.sources.store import column_reader
from yardcut.core.table.stored_table import Table

ROWS = 3000


def everything(table: Table) -> list[object]:
    return [
        (column.name, column.kind, column.info.set_aside, sorted(column.info.set_aside_texts), column.slice(0, table.rows).texts())
        for column in table.columns
    ]  # fmt: skip


@pytest.mark.few(16)
@pytest.mark.parametrize("kind", ["integer", "number", "date", "timestamp", "boolean", "text"])
@pytest.mark.parametrize(
    "odd", [{}, {2900: "odd"}, {2900: "007"}, {5: "", 2999: "NA"}, {row: f"odd {row}" for row in range(0, 3000, 9)}, {1: "1.5"},
            {2000: "99999999999999999999"}, {2500: " 12 "}],
)  # fmt: skip
def test_both_ways_agree(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, kind: str, odd: dict[int, str]) -> None:
    plain = {"date": "2031-03-{:02}", "timestamp": "2031-03-{:02} 10:00:00", "boolean": "true"}.get(kind, "{}")
    lines = [odd.get(row, plain.format(row % 28 + 1)) + ",x" for row in range(ROWS)]
    path = tmp_path / "a.csv"
    path.write_text("n,w\n" + "\n".join(lines) + "\n")
    spec = SourceSpec.of(path).with_line(parse_sub_line(f"kind n {kind}"))
    quick = everything(open_table(spec))
    monkeypatch.setattr(column_reader, "_holds", lambda declared, guessed: False)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "other"))
    assert quick == everything(open_table(spec))
