"""The one place that makes paths below the cache directory."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.settings.settings_in_force import settings


def cache_folder(*names: str) -> Path:
    """Return the cache directory, or a path below it; all in it can be made again, and it need not be there."""
    folder: Path = settings().value("cache.folder")
    return folder.joinpath(*names)
