"""Name the tests that failed in the last run; exit with 0 only where there are one or two of them."""

from __future__ import annotations

import json
import sys
from pathlib import Path

MOST = 2
RECORD = Path(".pytest_cache/v/cache/lastfailed")


def main() -> int:
    """Say which failed, and whether these are few."""
    failed = sorted(json.loads(RECORD.read_text())) if RECORD.exists() else []
    print(f"failed beside the others: {', '.join(failed) or 'nothing is known of it'}", flush=True)
    return 0 if 0 < len(failed) <= MOST else 1


if __name__ == "__main__":
    sys.exit(main())
