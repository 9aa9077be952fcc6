"""Asking the process that reads workbooks, and what to say where it does not live to answer."""

from __future__ import annotations

import json
import os
import pickle
import re
import subprocess
import sys
import threading
import zipfile
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

from yardcut.core.errors import Mend, SourceError
from yardcut.core.progress import CancelToken
from yardcut.core.sources.formats import workbook_child as child

_LOOK_SECONDS = 0.05
_MOST_BYTES = 4 << 30
_PIECE = 1 << 20
_MOST_LOOKED_AT = 512 << 20
_CELL = re.compile(rb'<c [^>]{0,200}?r="([A-Z]{1,3})([0-9]{1,7})"')
_MARK_BYTES = 256

Area = tuple[int | None, int | None, int | None, int | None]
"""The first row and column, and the last ones (excluded), from 0; ``None``: as far as there are cells."""
ALL_CELLS: Area = (None, None, None, None)


class TooLargeError(SourceError):
    """A workbook takes more memory than there is for it."""


def ask(
    path: Path, what: str, token: CancelToken, sheets: list[str] | None = None, cells: Area = ALL_CELLS
) -> Iterator[tuple[str, Any]]:
    """Yield what the process finds, word by word. Raises ``SourceError``, and ``StoppedError`` when told to stop."""
    limit = min(_MOST_BYTES, os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE") // 2)
    question = json.dumps({"path": str(path), "what": what, "sheets": sheets, "cells": cells, "limit": limit})
    command = [sys.executable, "-m", child.__name__, question]
    process = subprocess.Popen(command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL)
    assert process.stdout is not None
    threading.Thread(target=_watch, args=(process, token), name="workbook", daemon=True).start()
    try:
        while True:
            try:
                word, content = pickle.load(process.stdout)
            except (EOFError, pickle.UnpicklingError):
                break
            if word == child.FAILED:
                raise _too_large(path) if not content else SourceError(content)
            yield word, content
        token.check()
        if process.wait() != 0:  # it was ended, or ended itself, where there was no memory
            raise _too_large(path)
    finally:
        process.kill()
        process.stdout.close()
        process.wait()


def _watch(process: subprocess.Popen[bytes], token: CancelToken) -> None:
    """End the process when the work is stopped: the package looks at no token."""
    while process.poll() is None:
        if token.cancelled:
            process.kill()
            return
        with suppress(subprocess.TimeoutExpired):
            process.wait(_LOOK_SECONDS)


def _too_large(path: Path) -> TooLargeError:
    said = _reach(path)
    mend = "name the cells that are wanted, for example: cells 'A1:K900'" if said else "save it as .csv"
    return TooLargeError(f"{path} takes more memory than a workbook may{f': {said}' if said else ''}", mend=Mend(mend))


def _reach(path: Path) -> str:
    """Say how far the cells of the largest worksheet reach, or how much it unpacks to: found, not claimed."""
    try:
        with zipfile.ZipFile(path) as archive:
            names = [name for name in archive.namelist() if name.startswith("xl/worksheets/") and name.endswith(".xml")]
            found = max((_looked_at(archive, name) for name in names), default=None)
    except (OSError, ValueError, zipfile.BadZipFile, NotImplementedError, RuntimeError):
        return ""
    if found is None:
        return ""
    _, rows, columns, unpacked = found
    if unpacked >= _MOST_LOOKED_AT:
        return f"a worksheet unpacks to more than {_MOST_LOOKED_AT >> 20:,} MB"
    return f"a worksheet has cells as far as row {rows:,} and column {columns:,}"


def _looked_at(archive: zipfile.ZipFile, name: str) -> tuple[int, int, int, int]:
    """Return the cells, the rows and columns a worksheet reaches over, and the bytes it unpacks to, up to a limit."""
    rows = columns = unpacked = 0
    carry = b""
    with archive.open(name) as file:
        while unpacked < _MOST_LOOKED_AT and (piece := file.read(_PIECE)):
            unpacked += len(piece)
            data = carry + piece
            for letters, digits in set(_CELL.findall(data)):
                rows, columns = max(rows, int(digits)), max(columns, column_of(letters.decode()) + 1)
            carry = data[-_MARK_BYTES:]
    return rows * columns, rows, columns, unpacked


def column_of(letters: str) -> int:
    """Return the number of a column, from 0, by its letters.

    >>> column_of("AA")
    26
    """
    number = 0
    for letter in letters.upper():
        number = number * 26 + ord(letter) - 64
    return number - 1
