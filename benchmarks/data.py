"""The benchmark file: 10 million packs, 14 columns, about 1.4 GB of delimited text, made in blocks from a seed."""

from __future__ import annotations

from pathlib import Path
from typing import Any, BinaryIO

import numpy as np
import numpy.typing as npt
from platformdirs import user_cache_path

ROWS = 10_000_000
_BLOCK_ROWS = 250_000
Array = npt.NDArray[Any]
_SPECIES = ["oak", "ash", "beech", "larch", "pine", "elm", "yew", "Oak"]
_WORDS = ["sound", "end shake", "pith on one face", "blue stain along an edge", "bark pocket", "sawn twice",
          "stored under the east roof", "stickers removed", "turned in the stack", "wane within limits"]  # fmt: skip


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


def _write_block(file: BinaryIO, start: int, count: int) -> None:
    random = np.random.default_rng([2031, start])
    numbers = np.arange(start, start + count)
    words = np.array(_WORDS)

    def some(share: float, texts: list[str]) -> list[str]:
        return ["" if gone else text for gone, text in zip((random.random(count) < share).tolist(), texts, strict=True)]

    def texts(values: Array) -> list[str]:
        return list(map(str, values.tolist()))

    picked = [words[random.integers(0, len(_WORDS), count)].tolist() for _ in range(3)]
    bays = random.integers(0, 2000, count).tolist()
    days = np.datetime64("2029-01-01") + random.integers(0, 1090, count)
    columns = {
        "ticket": [f"{number:08d}-31" for number in numbers.tolist()],
        "species": np.array(_SPECIES)[
            random.choice(8, count, p=[0.3, 0.2, 0.15, 0.12, 0.1, 0.08, 0.01, 0.04])
        ].tolist(),
        "grade": some(0.02, np.array(list("ABCD"))[random.integers(0, 4, count)].tolist()),
        "bay": [f"{'NESW'[bay % 4]}-{bay % 500:03d}" for bay in bays],
        "felled_on": texts(days),
        "length_mm": some(0.03, texts(1800 + 300 * random.gamma(2, 2, count).astype(np.int64))),
        "moisture_pct": some(0.05, texts(np.round(random.normal(16, 4, count), 1))),
        "price_per_m3": texts(np.round(random.lognormal(6.4, 0.3, count) * 2) / 2),
        "volume_m3": texts(np.round(random.gamma(3, 0.4, count), 3)),
        "boards": texts(random.integers(4, 120, count)),
        "kiln_days": some(0.04, texts(random.integers(2, 75, count))),
        "reserved": some(0.1, np.where(random.random(count) < 0.3, "true", "false").tolist()),
        "buyer": [f"buyer {buyer:05d}" for buyer in random.integers(0, 20000, count).tolist()],
        "remark": [f'"{one}, {two}; {three}"' for one, two, three in zip(*picked, strict=True)],
    }
    if start == 0:
        file.write(",".join(columns).encode() + b"\n")
    file.write("\n".join(map(",".join, zip(*columns.values(), strict=True))).encode() + b"\n")
