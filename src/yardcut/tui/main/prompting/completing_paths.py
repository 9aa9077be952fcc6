"""Completing paths."""

from __future__ import annotations

from yardcut.core.errors import YardcutError
from yardcut.core.paths import path_of


def paths_like(text: str) -> list[str]:
    """Return the paths a text is the beginning of, directories with a slash behind."""
    try:
        path = path_of(text)
        folder, begun = (path, "") if text.endswith("/") or not text else (path.parent, path.name)
        found = sorted(entry for entry in folder.iterdir() if entry.name.startswith(begun))
    except (OSError, YardcutError):
        return []
    return [f"{entry}/" if entry.is_dir() else str(entry) for entry in found if begun or not entry.name.startswith(".")]
