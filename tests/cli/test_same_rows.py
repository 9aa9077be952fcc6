"""A cut's rows are the same by the app's way, by ``run``, and by ``run --cut``, whatever other cuts the list has."""

from __future__ import annotations

import datetime as dt
from pathlib import Path

import pytest

from commands import yardcut
from judging import TODAY, our_table, write_csv
from reference.generating import make_rows
from test_truth import random_cuts
from thoroughness import IS_LONG
from yardcut.core.cutlist.model import Cut, Line
from yardcut.core.errors import ListError
from yardcut.core.expressions.frame import source_frame
from yardcut.core.run.executing.bound_lines import bind_cut
from yardcut.core.run.executing.executor import Executor
from yardcut.core.scanning.local import LocalRunner

HEAD = (
    'yardcut 1\nsource "rows.csv"\n  kind id integer, word text, code text, "Odd Name" text, whole integer, small integer, real number, price number,\n'
    "    day date, later date, at timestamp, clock time, flag boolean\n  no value ''\n  form footer 0\n"
)


@pytest.mark.parametrize("seed", range(40 if IS_LONG else 6))
def test_the_app_run_and_run_of_one_cut_agree(tmp_path: Path, seed: int) -> None:
    write_csv(make_rows(60, 2), tmp_path / "rows.csv")
    texts = {
        name: [line for line in lines if "columns" not in line.split()[0]]
        for name, lines in random_cuts(1000 + seed).items()
    }
    table, days = our_table(tmp_path / "rows.csv"), (TODAY - dt.date(1970, 1, 1)).days
    cuts = [Cut(name, tuple(map(Line, lines))) for name, lines in texts.items()]
    executor = Executor(LocalRunner(table))
    seen: dict[str, list[str]] = {}
    for index in [*range(len(cuts)), *reversed(range(len(cuts)))]:
        bound = bind_cut(cuts[index], table, default_seed=0, earlier=cuts[:index], today=days)
        if any(line.error is not None for line in bound):
            pytest.skip("a line is refused, and so is the list")
        try:  # as the app does: every line is looked at
            results = list(executor.run_bound(bound))
        except ListError:
            pytest.skip("a line makes no sense with these rows")
        frame = results[-1].frame if results else source_frame(table)
        seen[cuts[index].name] = [str(int(row)) for row in frame.table.source_ids(frame.rows.ids(0, frame.rows.count))]
    body = "".join(
        f'cut "{name}"\n'
        + "".join(f"  {line}\n" for line in lines)
        + f'  make row_of_source = SOURCE_ROW - 1\n  columns row_of_source\n  save "{name}.csv" replace\n'
        for name, lines in texts.items()
    )
    (tmp_path / "l.cut").write_text(HEAD + body, encoding="utf-8")
    done = yardcut("run", "l.cut", "-q", "--today", str(TODAY), cwd=tmp_path)
    assert done.returncode == 0, done.stderr
    together = {name: (tmp_path / f"{name}.csv").read_text() for name in texts}
    for name in texts:
        assert together[name].split()[1:] == seen[name], (name, texts)
        assert yardcut("run", "l.cut", "--cut", name, "-q", "--today", str(TODAY), cwd=tmp_path).returncode == 0
        assert (tmp_path / f"{name}.csv").read_text() == together[name], (name, texts)
