"""Standard input as a source: kept in a file of its own, since columns may have to be read twice."""

from __future__ import annotations

import atexit
import shutil
import tempfile
from pathlib import Path
from typing import IO

from yardcut.core.errors import Mend, SourceError
from yardcut.core.private import private_folder, private_opener
from yardcut.core.sources.cache import stores_folder


def kept_input(stream: IO[bytes]) -> Path:
    """Copy a pipe to a file that is removed when the process ends. Raises ``SourceError``."""
    folder = stores_folder().parent
    try:
        private_folder(folder)
        kept = Path(tempfile.mkdtemp(prefix="piped-", dir=folder))
        atexit.register(shutil.rmtree, kept, ignore_errors=True)
        path = kept / "standard input"
        with open(path, "wb", opener=private_opener) as file:
            shutil.copyfileobj(stream, file, 1 << 20)
    except OSError as error:
        raise SourceError(f"standard input cannot be kept in {folder}: {error.strerror}") from error
    if not path.stat().st_size:
        raise SourceError("nothing came from standard input", mend=Mend("check the command before the pipe"))
    return path
