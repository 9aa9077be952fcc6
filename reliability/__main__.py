"""``python -m reliability``: hunt for a while, tell what was found, and end with 1 if anything was."""

from __future__ import annotations

import argparse
import os
import sys
import tempfile
import time
from pathlib import Path

from reliability import damage, disk, keys, kills, lines, truth
from reliability.hunt import Tally, Turn, turns

HUNTS: dict[str, tuple[Turn, float]] = {
    "keys": (keys.turn, 0.3),
    "lines": (lines.turn, 0.1),
    "truth": (truth.turn, 0.2),
    "damage": (damage.turn, 0.2),
    "kills": (kills.turn, 0.1),
    "disk": (disk.turn, 0.1),
}
"""Each hunt, and its share of the time."""


def main() -> None:
    """Run the hunts one after the other."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--minutes", type=float, default=30.0, help="how long in all")
    parser.add_argument("--only", choices=HUNTS, action="append", help="only this hunt; may be given again")
    parser.add_argument(
        "--seed", type=int, default=int(time.strftime("%Y%m%d")), help="the first seed, by itself that of the day"
    )
    options = parser.parse_args()
    chosen = options.only or list(HUNTS)
    whole = sum(HUNTS[hunt][1] for hunt in chosen)
    tallies = []
    with tempfile.TemporaryDirectory(prefix="reliability-", ignore_cleanup_errors=True) as folder:
        for name in ("XDG_CACHE_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"):
            os.environ[name] = f"{folder}/{name.lower()}"
        for hunt in chosen:
            turn, share = HUNTS[hunt]
            tally = Tally(hunt)
            tallies.append(tally)
            for finding in turns(hunt, turn, options.seed, options.minutes * 60 * share / whole, Path(folder), tally):
                print(f"{finding.hunt}, seed {finding.seed}: {finding.said}\n", flush=True)
            print(
                f"{hunt:8} {tally.turns:6,} turns in {tally.seconds:6.0f} s from seed {options.seed}: "
                f"{tally.findings} findings",
                flush=True,
            )
    sys.exit(1 if any(tally.findings for tally in tallies) else 0)


if __name__ == "__main__":
    main()
