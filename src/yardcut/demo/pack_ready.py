"""Makes the ready set that ships with the package: ``python -m yardcut.demo.pack_ready``."""

from __future__ import annotations

import lzma
import tempfile
from pathlib import Path

from yardcut.core.progress import CancelToken, Progress
from yardcut.demo.files import READY_ROWS, write_yard


def main() -> None:
    """Write ``ready/*.csv.xz`` beside this file."""
    target = Path(__file__).parent / "ready"
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        write_yard(Path(folder), READY_ROWS, CancelToken(), Progress())
        for path in sorted(Path(folder).glob("*.csv")):
            packed = lzma.compress(path.read_bytes(), preset=9 | lzma.PRESET_EXTREME)
            (target / f"{path.name}.xz").write_bytes(packed)


if __name__ == "__main__":
    main()
