"""Loading grammars, each once; the tables worked out from one are kept in the cache directory for the next start."""

from __future__ import annotations

import contextlib
import hashlib
import io
import os
import stat
import sys
import threading
from functools import cache
from importlib.resources import files
from pathlib import Path

import lark
from lark import Lark

from yardcut.core.language.save_options import SAVE_OPTIONS, options_grammar
from yardcut.core.placing import placed
from yardcut.core.private import private_folder
from yardcut.core.settings.folders import cache_folder

_LOADING = threading.Lock()


def grammar(name: str = "cut", start: str = "statement") -> Lark:
    """Return the parser of a grammar of this package, built once.

    One thread at a time: Python 3.11 loses count when two threads build syntax trees of its own at once, as the
    loading of a grammar does.
    """
    with _LOADING:
        return _load(name, start, tuple(SAVE_OPTIONS) if name == "cut" else ())


def grammar_text(name: str = "cut") -> str:
    """Return a grammar of this package; that of the lines of a cut has a rule made of the table of save options."""
    text = (files("yardcut.core.language.syntax") / f"{name}.lark").read_text(encoding="utf-8")
    return text + options_grammar() if name == "cut" else text


@cache
def _load(name: str, start: str, options: tuple[str, ...] = ()) -> Lark:
    text = grammar_text(name)
    path = _kept_path(name, start, text)
    kept = _kept(path)
    if kept is not None:
        return kept
    built = Lark(text, parser="lalr", lexer="contextual", start=start, maybe_placeholders=False,
                 propagate_positions=True)  # fmt: skip
    _keep(built, path)
    return built


def _kept_path(name: str, start: str, text: str) -> Path:
    """Return where the tables of just this grammar, by just these versions, are kept."""
    key = "\n".join((text, start, lark.__version__, sys.version))
    return cache_folder("grammars", f"{name}-{hashlib.blake2b(key.encode(), digest_size=12).hexdigest()}")


def _kept(path: Path) -> Lark | None:
    """Load tables that were kept, where nobody but the user can have written them: their format can hold code."""
    try:
        with open(path, "rb") as file:
            for status in (os.fstat(file.fileno()), path.parent.stat()):
                if status.st_uid != os.geteuid() or status.st_mode & (stat.S_IWGRP | stat.S_IWOTH):
                    return None
            content = file.read()
    except OSError:
        return None
    digest, tables = content[:_DIGEST_BYTES], content[_DIGEST_BYTES:]
    if digest != _digest(tables):
        return None  # a disk that lost a part of it
    loaded: Lark = Lark.load(io.BytesIO(tables))
    return loaded


def _keep(built: Lark, path: Path) -> None:
    """Keep the tables for the next start. A disk that is full or closed only makes that start slower."""
    tables = io.BytesIO()
    built.save(tables)
    with contextlib.suppress(OSError):
        private_folder(path.parent)
        with placed(path, replace=True) as beside:
            beside.write_bytes(_digest(tables.getvalue()) + tables.getvalue())
        path.chmod(0o600)


_DIGEST_BYTES = 16


def _digest(tables: bytes) -> bytes:
    return hashlib.blake2b(tables, digest_size=_DIGEST_BYTES).digest()
