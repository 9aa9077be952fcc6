"""Running the command line: as a whole process, or, far faster, within this one."""

from __future__ import annotations

import contextlib
import gc
import io
import logging
import os
import subprocess
import sys
from pathlib import Path
from unittest import mock

Done = subprocess.CompletedProcess[str]


def yardcut_process(*words: str | Path, cwd: Path, given: str | None = None, **environment: str) -> Done:
    """Run it as a process of its own, as a shell does."""
    return subprocess.run(
        [sys.executable, "-m", "yardcut", *map(str, words)],
        cwd=cwd, input=given, capture_output=True, text=True, env={**os.environ, **environment}, check=False,
    )  # fmt: skip


def yardcut(*words: str | Path, cwd: Path, given: str | None = None, **environment: str) -> Done:
    """Run it within this process: everything but the start of an interpreter."""
    from yardcut.cli.main import main
    from yardcut.core.sources.elsewhere import addresses

    argv = ["yardcut", *map(str, words)]
    out, err = io.TextIOWrapper(io.BytesIO(), "utf-8", newline=""), io.TextIOWrapper(io.BytesIO(), "utf-8", newline="")
    stdin = io.TextIOWrapper(io.BytesIO((given or "").encode()), "utf-8")
    log = logging.getLogger("yardcut")
    handlers, before, code = list(log.handlers), os.getcwd(), 0
    # what a process sets for itself is not for the tests that come after
    interval, collects, thresholds = sys.getswitchinterval(), gc.isenabled(), gc.get_threshold()
    patches = (
        mock.patch.object(sys, "argv", argv), mock.patch.object(sys, "stdin", stdin), mock.patch.object(sys, "stdout", out),
        mock.patch.object(sys, "stderr", err), mock.patch.dict(os.environ, environment),
        mock.patch.dict(addresses._SECRETS),
    )  # fmt: skip
    try:
        os.chdir(cwd)
        with contextlib.ExitStack() as stack:
            for patch in patches:
                stack.enter_context(patch)
            main()
    except SystemExit as ended:
        code = int(ended.code or 0)
    finally:
        os.chdir(before)
        sys.setswitchinterval(interval)
        gc.unfreeze()
        gc.set_threshold(*thresholds)
        (gc.enable if collects else gc.disable)()
        for handler in [each for each in log.handlers if each not in handlers]:
            log.removeHandler(handler)
            handler.close()
    return subprocess.CompletedProcess(argv, code, _text(out), _text(err))


def _text(file: io.TextIOWrapper) -> str:
    file.flush()
    file.seek(0)
    return file.read().replace("\r\n", "\n")


def assert_sentence(done: Done, code: int, *says: str) -> None:
    """A failure is a sentence on standard error, with its exit code and no traceback."""
    assert done.returncode == code, done.stderr
    assert "Traceback" not in done.stderr
    for part in says:
        assert part in done.stderr
