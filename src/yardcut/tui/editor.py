"""Going on with a text in the user's own editor."""

from __future__ import annotations

import os
import shlex
import subprocess
import tempfile
from pathlib import Path

from yardcut.core.errors import Mend, YardcutError


def edit_text(text: str) -> str:
    """Open ``$EDITOR`` on a text and return what was saved. Raises ``YardcutError`` where nothing usable was."""
    editor = os.environ.get("VISUAL") or os.environ.get("EDITOR") or "vi"
    mend = Mend("set EDITOR to one that there is; the line is as it was")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "line.cut"
        try:
            path.write_text(text + "\n", encoding="utf-8")
            done = subprocess.run([*shlex.split(editor), str(path)], check=False)
            if done.returncode:
                raise YardcutError(f"{editor} ended with {done.returncode}; the line is as it was")
            return path.read_text(encoding="utf-8-sig").rstrip("\n")
        except UnicodeDecodeError:
            raise YardcutError(
                f"{editor} saved no UTF-8", mend=Mend("have it save UTF-8; the line is as it was")
            ) from None
        except ValueError:
            raise YardcutError(f"{editor} is no command", mend=mend) from None
        except OSError as error:
            raise YardcutError(f"{editor} cannot be started: {error.strerror or error}", mend=mend) from None
