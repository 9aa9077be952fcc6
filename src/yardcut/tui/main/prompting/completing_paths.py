"""Completing paths."""

from __future__ import annotations

from pathlib import Path

from yardcut.core.errors import YardcutError
from yardcut.core.paths import path_of


def paths_like(text: str, base: Path = Path()) -> list[str]:
    """Return the paths a text is the beginning of, directories with a slash behind; relative ones are to ``base``."""
    try:
        path = path_of(text)
        folder, begun = (path, "") if text.endswith("/") or not text else (path.parent, path.name)
        found = sorted(entry.name for entry in (base / folder).iterdir() if entry.name.startswith(begun))
    except (OSError, YardcutError):
        return []
    shown = [name for name in found if begun or not name.startswith(".")]
    return [f"{folder / name}/" if (base / folder / name).is_dir() else str(folder / name) for name in shown]
