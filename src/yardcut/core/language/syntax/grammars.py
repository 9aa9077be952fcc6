"""Loading grammars, each once; the tables worked out from one are kept in the cache directory for the next start."""

from __future__ import annotations

import contextlib
import hashlib
import os
import re
import stat
import sys
import threading
from functools import cache
from importlib.resources import files
from pathlib import Path

import lark
from lark import Lark

from yardcut.core.language.save_options import SAVE_OPTIONS, options_grammar
from yardcut.core.language.syntax.packed_parsers import packed, unpacked
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
    return _with_bare_rules(text) + options_grammar() if name == "cut" else text


_CHAINED = (
    "_condition", "disjunction", "conjunction", "negation", "truth", "distinct", "comparison", "same_row", "_tail",
    "compare", "between", "like", "text_test", "value", "product", "sign",
)  # fmt: skip
"""The rules that reach the end of a value without a bracket: those of the second set."""
_RULE = re.compile(rf"({'|'.join(_CHAINED)}): (.*)")


def _with_bare_rules(text: str) -> str:
    """Add the second set of rules, in which no aggregate has a "per" of its own."""
    found = [match.groups() for match in map(_RULE.fullmatch, text.splitlines()) if match is not None]
    named = re.compile(rf"(?<!\w)({'|'.join(_CHAINED)})(?!\w)")
    bare = []
    for name, body in found:
        alias = "" if name.startswith("_") else f" -> {name}"
        forms = _alternatives(body.replace("(atom | of_group)", "atom"))
        said = [named.sub(lambda match: _bare(match[0]), form) + alias for form in forms]
        bare.append(f"{_bare(name)}: {' | '.join(said)}\n")
    return f"{text}\n{''.join(bare)}"


def _bare(name: str) -> str:
    return f"_bare{name}" if name.startswith("_") else f"bare_{name}"


def _alternatives(body: str) -> list[str]:
    """Return the forms of a rule that stand beside each other outside of brackets."""
    found, depth = [""], 0
    for word in body.split():
        depth += word.count("(") - word.count(")") if '"' not in word else 0
        if word == "|" and not depth:
            found.append("")
        else:
            found[-1] += f" {word}"
    return [form.strip() for form in found]


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
    key = "\n".join((text, start, lark.__version__, sys.version, packed.__module__))
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
    return unpacked(tables)


def _keep(built: Lark, path: Path) -> None:
    """Keep the tables for the next start. A disk that is full or closed only makes that start slower."""
    tables = packed(built)
    with contextlib.suppress(OSError):
        private_folder(path.parent)
        with placed(path, replace=True) as beside:
            beside.write_bytes(_digest(tables) + tables)
        path.chmod(0o600)


_DIGEST_BYTES = 16


def _digest(tables: bytes) -> bytes:
    return hashlib.blake2b(tables, digest_size=_DIGEST_BYTES).digest()
