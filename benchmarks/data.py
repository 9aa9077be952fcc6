"""The benchmark file: 10 million packs, 14 columns, about 1.5 GB of delimited text, made in blocks from a seed."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from platformdirs import user_cache_path

ROWS = 10_000_000
_BLOCK_ROWS = 250_000
_SPECIES = ["oak", "ash", "beech", "larch", "pine", "elm", "yew", "Oak"]
_WORDS = ["sound", "end shake", "pith on one face", "blue stain along an edge", "bark pocket", "sawn twice",
          "stored under the east roof", "stickers removed", "turned in the stack", "edge wane within limits"]  # fmt: skip


def benchmark_file(rows: int = ROWS) -> Path:
    """Return the path of the benchmark file in the user's cache directory, making it when it is not there."""
    path = user_cache_path("yardcut") / "benchmarks" / f"packs_{rows}.csv"
    if path.exists():
        return path
    path.parent.mkdir(parents=True, exist_ok=True)
    partial = path.with_suffix(".partial")
    with open(partial, "wb") as file:
        for start in range(0, rows, _BLOCK_ROWS):
            _write_block(file, start, min(_BLOCK_ROWS, rows - start))
    partial.rename(path)
    return path


def _write_block(file: Any, start: int, count: int) -> None:
    import pyarrow as pa
    from pyarrow import csv

    random = np.random.default_rng([2031, start])
    numbers = np.arange(start, start + count)
    words = np.array(_WORDS)

    def some(share: float, values: Any) -> Any:
        return pa.array(values, mask=random.random(count) < share)

    remark = [f"{a}, {b}" for a, b in zip(words[random.integers(0, 10, count)], words[random.integers(0, 10, count)],
                                          strict=True)]  # fmt: skip
    columns = {
        "ticket": pa.array([f"{number:08d}-31" for number in numbers.tolist()]),
        "species": pa.array(np.array(_SPECIES)[random.choice(8, count, p=[.3, .2, .15, .12, .1, .08, .01, .04])]),
        "grade": some(0.02, np.array(list("ABCD"))[random.integers(0, 4, count)]),
        "bay": pa.array([f"{'NESW'[bay % 4]}-{bay % 500:03d}" for bay in random.integers(0, 2000, count).tolist()]),
        "felled_on": pa.array(np.datetime64("2029-01-01") + random.integers(0, 1090, count)),
        "length_mm": some(0.03, (1800 + 300 * random.gamma(2, 2, count).astype(np.int64))),
        "moisture_pct": some(0.05, np.round(random.normal(16, 4, count), 1)),
        "price_per_m3": pa.array(np.round(random.lognormal(6.4, 0.3, count) * 2) / 2),
        "volume_m3": pa.array(np.round(random.gamma(3, 0.4, count), 3)),
        "boards": pa.array(random.integers(4, 120, count)),
        "kiln_days": some(0.04, random.integers(2, 75, count)),
        "reserved": some(0.1, random.random(count) < 0.3),
        "buyer": pa.array([f"buyer {buyer:05d}" for buyer in random.integers(0, 20000, count).tolist()]),
        "remark": pa.array(remark),
    }  # fmt: skip
    options = csv.WriteOptions(include_header=start == 0, quoting_style="needed")
    csv.write_csv(pa.table(columns), file, options)
