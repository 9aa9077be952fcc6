"""Logs go to a file in the user's state directory: never over the screen, never with cell values."""

from __future__ import annotations

import logging
import logging.handlers

from platformdirs import user_state_path

_MOST_BYTES = 1 << 20


def log_to_file() -> None:
    """Send logs to ``yardcut.log``; where that cannot be written there are none."""
    folder = user_state_path("yardcut")
    root = logging.getLogger("yardcut")
    root.propagate = False
    try:
        folder.mkdir(parents=True, exist_ok=True)
        handler: logging.Handler = logging.handlers.RotatingFileHandler(
            folder / "yardcut.log", maxBytes=_MOST_BYTES, backupCount=1, delay=True, encoding="utf-8"
        )
    except OSError:
        handler = logging.NullHandler()
    handler.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s %(message)s"))
    root.addHandler(handler)
    root.setLevel(logging.INFO)
