"""What is kept between one run and the next: the user's state directory, with the log and the lists."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_state_path


def state_folder() -> Path:
    """Return the directory; it need not be there."""
    return user_state_path("yardcut")


def log_path() -> Path:
    """Return where the log is written."""
    return state_folder() / "yardcut.log"
