"""Patterns that meet other columns than last time are said, by a run and in the app."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from tui.driving import Driven, drive
from yardcut.core.sources.spec import SourceSpec


def yardcut(*words: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run([sys.executable, "-m", "yardcut", *words], capture_output=True, text=True, check=False)


@pytest.mark.long
def test_a_pattern_and_a_number_that_meet_other_columns_are_said(tmp_path: Path) -> None:
    yard, listed = tmp_path / "yard.csv", tmp_path / "dry.cut"
    yard.write_text("ticket,d01,d02,note\na,1,2,x\nb,3,4,y\n")
    listed.write_text(
        f'yardcut 1\nsource "{yard}"\nkeep AVG OF (d*) > 1\ncolumns ticket, d*, #-1, off kind text\n'
        f'save "{tmp_path / "out.csv"}" replace\n'
    )
    first = yardcut("run", str(listed), "--report", str(tmp_path / "r.json"))
    assert first.returncode == 0, first.stderr
    assert json.loads((tmp_path / "r.json").read_text())["patterns"] == {"d*": ["d01", "d02"], "#-1": ["note"]}
    yard.write_text("ticket,d01,d03,note,price\na,1,2,x,5\nb,3,4,y,6\n")

    async def steps(driven: Driven) -> None:
        await driven.until("1!keep", "2!columns", "3 save")
        await driven.press("tab", "up")
        await driven.until("d* meets d03 now and no", "#-1 meets price now")

    drive(SourceSpec.of(listed), steps)
    again = yardcut("run", str(listed), "--strict")
    assert again.returncode == 3
    assert "since the last run d* meets d03 now and no longer meets d02" in again.stderr
    assert "since the last run #-1 meets price now and no longer meets note" in again.stderr
