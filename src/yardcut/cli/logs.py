"""Logs go to a file in the user's state directory: never over the screen, never with cell values."""

from __future__ import annotations

import logging
import logging.handlers
from io import TextIOWrapper
from typing import cast

from yardcut.core.private import private_folder, private_opener
from yardcut.core.state import log_path, state_folder

_MOST_BYTES = 1 << 20


class _PrivateLog(logging.handlers.RotatingFileHandler):
    """Makes each file for its owner alone."""

    def _open(self) -> TextIOWrapper:
        stream = open(self.baseFilename, self.mode, encoding=self.encoding, opener=private_opener)  # noqa: SIM115
        return cast("TextIOWrapper", stream)


def log_to_file() -> None:
    """Send logs to ``yardcut.log``, once; where that cannot be written there are none."""
    root = logging.getLogger("yardcut")
    if root.handlers:
        return
    logging.raiseExceptions = False  # a log that cannot be written says nothing of it on the screen
    root.propagate = False
    try:
        private_folder(state_folder())
        handler: logging.Handler = _PrivateLog(
            log_path(), maxBytes=_MOST_BYTES, backupCount=1, delay=True, encoding="utf-8"
        )
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(message)s"))
    root.addHandler(handler)
    root.setLevel(logging.INFO)
