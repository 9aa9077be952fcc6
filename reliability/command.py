"""Running the command line quickly and again and again: in a child of this process, which has all loaded already."""

from __future__ import annotations

import os
import resource
import select
import signal
import sys
import time
import traceback
from dataclasses import dataclass
from functools import cache
from importlib import import_module
from pathlib import Path

CODES = (0, 1, 2, 3, 130)
"""The exit codes that docs/language.md names, but for that of a fault of the program's own."""


@dataclass(frozen=True, slots=True)
class Ended:
    """How a command ended: ``code`` is ``None`` when it did not, within its time."""

    code: int | None
    said: str

    def wrong(self) -> str | None:
        """Say what is wrong with how it ended, if anything is."""
        if self.code is None:
            return f"did not end\n{self.said[-2000:]}"
        if self.code not in CODES or "Traceback" in self.said:
            return f"exit code {self.code}\n{self.said[-4000:]}"
        return None


def run(
    words: list[str],
    folder: Path,
    seconds: float = 30.0,
    *,
    most_file_bytes: int | None = None,
    own_cache: bool = False,
) -> Ended:
    """Run ``yardcut`` with some words in a folder.

    ``most_file_bytes`` stands for a disk that is full then; with ``own_cache`` nothing was read before.
    """
    _load()
    read, write = os.pipe()
    child = os.fork()
    if child == 0:
        os.close(read)
        if own_cache:
            os.environ["XDG_CACHE_HOME"] = str(folder / "cache")
        _be_the_command(words, folder, write, most_file_bytes)
    os.close(write)
    said, code = _until_it_ends(child, read, seconds)
    os.close(read)
    return Ended(code, said)


@cache
def _load() -> None:
    """Load what the children need, and start no thread: a fork leaves threads behind."""
    for name in (
        *("cli.main", *(f"cli.commands.{name}" for name in ("cut", "gauge", "check", "run")), "core.unattended"),
        *(
            "core.profile.summary",
            "core.sources.opening_sources",
            "core.sources.store.reading_files",
            "core.writers.formats.delimited",
        ),
    ):
        import_module(f"yardcut.{name}")
    from yardcut.core.language.syntax.grammars import grammar

    grammar()
    grammar("source", "sub_line")


def _be_the_command(words: list[str], folder: Path, output: int, most_file_bytes: int | None) -> None:
    code = 99
    try:
        os.chdir(folder)
        empty = os.open(os.devnull, os.O_RDONLY)
        os.dup2(empty, 0)
        os.dup2(output, 1)
        os.dup2(output, 2)
        sys.stdout, sys.stderr = os.fdopen(1, "w", closefd=False), os.fdopen(2, "w", closefd=False)
        if most_file_bytes is not None:
            signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
            resource.setrlimit(resource.RLIMIT_FSIZE, (most_file_bytes, most_file_bytes))
        sys.argv = ["yardcut", *words]
        from yardcut.cli.main import main

        main()
        code = 0
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else 0 if end.code is None else 1
    except BaseException:
        traceback.print_exc()
        code = 98
    finally:
        for stream in (sys.stdout, sys.stderr):
            try:
                stream.flush()
            except (OSError, ValueError):
                code = code or 97
        os._exit(code)


def _until_it_ends(child: int, output: int, seconds: float) -> tuple[str, int | None]:
    said, end = b"", time.monotonic() + seconds
    while True:
        left = end - time.monotonic()
        ready, _, _ = select.select([output], [], [], max(0.0, min(left, 0.5)))
        if ready:
            piece = os.read(output, 1 << 16)
            if not piece:
                break
            said = (said + piece)[-(1 << 16) :]
        elif left <= 0:
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            return said.decode("utf-8", "replace"), None
    _, status = os.waitpid(child, 0)
    return said.decode("utf-8", "replace"), os.waitstatus_to_exitcode(status)
