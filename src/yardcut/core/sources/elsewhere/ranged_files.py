"""Parquet files that stay where they are: a small file here stands for one, and what is wanted comes by ranges."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.formats import RANGED, function
from yardcut.core.private import write_private
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.sources.elsewhere.addresses import way_to
from yardcut.core.sources.elsewhere.coming_files import About

LEAST_BYTES = 1 << 24
"""A smaller file comes whole: asking for its parts takes longer."""
_ENDING, _MARK = ".parquet", b"PAR1"

Get = Callable[[str, Path, "About | None", CancelToken, Progress], "About | None"]
"""Fetches an address into a file, or returns ``None`` where what is known of it holds still."""


def may_stay_there(address: str) -> bool:
    """Tell whether parts of the file of an address may be enough, by its name."""
    return bool(way_to(address).part) and address.lower().endswith(_ENDING)


def stand_in(
    whole: Get, address: str, part: Path, known: About | None, token: CancelToken, progress: Progress
) -> About | None:
    """Write what stands for a large Parquet file whose server gives ranges of it; any other is fetched ``whole``.

    Returns ``None`` where what is known of it holds still. Raises ``SourceError``, ``StoppedError``, ``OSError``.
    """
    progress.begin(f"asking {address.split('/')[2]}", 1)
    found = _ends(address)
    if found is None or found[0].size_bytes < LEAST_BYTES or found[1:] != (_MARK, _MARK):
        return whole(address, part, None if known is not None and known.stays_there else known, token, progress)
    about = replace(found[0], stays_there=True)
    if known is not None and replace(known, changed_seconds=about.changed_seconds, stays_there=True) == about:
        return None
    write_private(part, RANGED + json.dumps({"address": address, **asdict(about)}).encode())
    return about


def _ends(address: str) -> tuple[About, bytes, bytes] | None:
    found: tuple[About, bytes, bytes] | None = function(way_to(address).ends)(address, len(_MARK))
    return found


def file_there(path: Path) -> Any:
    """Open the file that another stands for, to be read in ranges. Raises ``SourceError``."""
    try:
        content = json.loads(path.read_bytes().removeprefix(RANGED))
        address = str(content.pop("address"))
        about = About(**content)
    except (OSError, ValueError, KeyError, TypeError) as error:
        raise SourceError(f"{path} stands for no file", mend=Mend("open the address itself")) from error
    return function(way_to(address).part)(address, about)
