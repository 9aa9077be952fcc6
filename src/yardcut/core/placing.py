"""Files written beside their target first. They get the mode a new file gets; the umask is the system's to apply."""

from __future__ import annotations

import os
import secrets
from pathlib import Path


def create_beside(path: Path, suffix: str = ".partial") -> Path:
    """Create an empty file of a new name in a path's directory and return it. Raises ``OSError``."""
    while True:
        beside = path.with_name(f".{path.name[:100]}.{secrets.token_hex(4)}{suffix}")
        try:
            os.close(os.open(beside, os.O_CREAT | os.O_EXCL | os.O_WRONLY | os.O_CLOEXEC, 0o666))
        except FileExistsError:
            continue
        return beside
