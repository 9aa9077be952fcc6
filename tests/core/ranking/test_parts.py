"""The same rows and the same bits, however the work is cut and whatever the processor can do."""

from __future__ import annotations

import hashlib
import json
import os
import subprocess
import sys
from pathlib import Path

import numpy as np
import pytest

from helpers import run_lines
from yardcut.core.language.meaning.bound import ColumnValue
from yardcut.core.profile.sums import SumRound
from yardcut.core.progress import CancelToken
from yardcut.core.scanning.local import LocalRunner
from yardcut.core.scanning.row_parts import BLOCK_ROWS, parts_of
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.table.stored_table import Table
from yardcut.core.values.kinds import Kind

ROWS = 7 * BLOCK_ROWS - 1234
CUTS = [
    ["keep real > 0.25 AND (word = 'w3' OR whole <= 40)", "draw top 50 by real per word with ties"],
    ["draw random 1000 seed 7"],
    ["draw random 2 percent per word seed 9", "order real DESC"],
    ["order word, whole DESC, real"],
    ["order text DESC", "draw first 10 per word"],
    ["drop whole IS NULL", "draw bottom 300 by whole", "draw every 7 from 3"],
    ["keep text CONTAINS '77'", "draw last 5 per word"],
]


def make_file(path: Path) -> None:
    random = np.random.default_rng(31)
    words = [f"w{word}" for word in random.integers(0, 9, ROWS).tolist()]
    whole = ["" if number > 90 else str(number) for number in random.integers(0, 99, ROWS).tolist()]
    real = random.random(ROWS).tolist()
    texts = [f"t{number:07d}" for number in random.permutation(ROWS).tolist()]
    body = "\n".join(f"{w},{n},{r!r},{t}" for w, n, r, t in zip(words, whole, real, texts, strict=True))
    path.write_text(f"word,whole,real,text\n{body}\n")


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Table:
    path = tmp_path_factory.mktemp("parts") / "rows.csv"
    make_file(path)
    return open_table(path)


def digests(table: Table, parts: int) -> list[str]:
    """Return a digest of the rows each cut leaves, and of a sum's bits."""
    found = []
    for lines in CUTS:
        rows = run_lines(table, *lines, parts=parts)[-1].rows
        found.append(hashlib.sha256(rows.ids(0, rows.count).astype("<u4").tobytes()).hexdigest())
    runner = LocalRunner(table, -(-7 // parts) * BLOCK_ROWS)
    total = runner.run(SumRound(ColumnValue(2, Kind.NUMBER), None), CancelToken())
    return [*found, str(total)]


def test_one_two_and_seven_parts_give_the_same(table: Table) -> None:
    once = digests(table, 1)
    assert digests(table, 2) == once
    assert digests(table, 7) == once


@pytest.mark.long
def test_without_the_processors_wide_instructions_it_is_the_same(table: Table) -> None:
    wide = ["AVX512_SPR", "AVX512_ICL", "AVX512_CNL", "AVX512_CLX", "AVX512_SKX", "AVX512F", "AVX512CD", "AVX2", "FMA3",
            "X86_V4", "X86_V3"]  # fmt: skip
    try:
        from numpy._core._multiarray_umath import __cpu_baseline__, __cpu_dispatch__, __cpu_features__
    except ImportError:
        pytest.skip("this numpy does not say what it uses")
    off = [name for name in __cpu_dispatch__ if name in wide and __cpu_features__.get(name)]
    assert not set(off) & set(__cpu_baseline__)
    if not off:
        pytest.skip("this processor has no wide instructions to switch off")
    script = (
        "import json, sys; sys.path.insert(0, sys.argv[2])\n"
        "import importlib.util, pathlib\n"
        "spec = importlib.util.spec_from_file_location('parts', sys.argv[3])\n"
        "module = importlib.util.module_from_spec(spec); spec.loader.exec_module(module)\n"
        "from yardcut.core.table.stored_table import read_table\n"
        "print(json.dumps(module.digests(read_table(pathlib.Path(sys.argv[1])), 2)))\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", script, str(table.folder), str(Path(__file__).parents[2]), __file__],
        env={**os.environ, "NPY_DISABLE_CPU_FEATURES": " ".join(off)},
        capture_output=True, text=True, check=True,
    )  # fmt: skip
    assert json.loads(done.stdout) == digests(table, 1)


def test_parts_cover_the_rows_and_start_on_blocks(table: Table) -> None:
    parts = parts_of(table, 2 * BLOCK_ROWS)
    assert [part.first_row for part in parts] == [0, 2 * BLOCK_ROWS, 4 * BLOCK_ROWS, 6 * BLOCK_ROWS]
    assert sum(part.rows for part in parts) == ROWS


def test_plans_pickle(table: Table) -> None:
    import pickle

    from yardcut.core.expressions.frame import source_scope
    from yardcut.core.expressions.piece_rounds import AnswerRound
    from yardcut.core.language.meaning.bound_parts import pieces_of
    from yardcut.core.language.verbs.filter import BoundFilter
    from yardcut.core.run.executing.bound_lines import bind_line

    bound = bind_line("keep word = 'w3' AND real < 0.5", source_scope(table))
    assert bound is not None
    assert isinstance(bound.body, BoundFilter)
    work = AnswerRound(tuple(pieces_of(bound.body.condition)))
    again = pickle.loads(pickle.dumps(work))
    part = parts_of(table, BLOCK_ROWS)[1]
    one, other = work.scan(table, part), again.scan(table, part)
    assert all(
        (a.true == c.true).all() and (a.false == c.false).all()
        for a, c in zip(one[part.first_row], other[part.first_row], strict=True)
    )
