"""Going on with a text in the user's own editor."""

from __future__ import annotations

import os
import shlex
import subprocess
import tempfile
from pathlib import Path


def edit_text(text: str) -> str | None:
    """Open ``$EDITOR`` on a text and return what was saved; ``None`` when the editor failed."""
    editor = os.environ.get("VISUAL") or os.environ.get("EDITOR") or "vi"
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.cut"
        path.write_text(text + "\n", encoding="utf-8")
        try:
            done = subprocess.run([*shlex.split(editor), str(path)], check=False)
        except OSError:
            return None
        return path.read_text(encoding="utf-8").rstrip("\n") if done.returncode == 0 else None
