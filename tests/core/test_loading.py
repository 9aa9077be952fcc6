"""Packages loaded when first needed, by several threads at once, are whole for each of them."""

from __future__ import annotations

import ast
import subprocess
import sys
from pathlib import Path

import yardcut
from thoroughness import IS_LONG

AT_ONCE = """
import sys, threading
sys.setswitchinterval(1e-6)
from yardcut.tui.desk.warm_up import warm_up
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.values.patterns import compiled
def near():
    from yardcut.core.near import nearest
    assert nearest("grad", ["grade", "bay"]) == ["grade"]
def verb():
    try:
        parse_statement("kep a = 1")
    except Exception as error:
        assert "did you mean keep" in str(error), error
failed = []
start = threading.Barrier(4)
def go(call):
    start.wait()
    try:
        call()
    except BaseException as error:
        failed.append(repr(error))
threads = [threading.Thread(target=go, args=(call,)) for call in (warm_up, near, verb, lambda: compiled("a+"))]
[thread.start() for thread in threads]
[thread.join() for thread in threads]
assert not failed, failed
"""


def test_two_threads_may_need_the_same_package_at_once() -> None:
    for _ in range(4 if IS_LONG else 1):
        subprocess.run([sys.executable, "-c", AT_ONCE], check=True)


def test_a_package_with_parts_that_import_each_other_has_one_door() -> None:
    found = set()
    texts = {path: path.read_text("utf-8") for path in Path(yardcut.__file__).parent.rglob("*.py")}
    for path, text in texts.items():
        for node in ast.walk(ast.parse(text)) if "rapidfuzz" in text else []:
            names = [alias.name for alias in node.names] if isinstance(node, ast.Import) else []
            if isinstance(node, ast.ImportFrom) and node.module:
                names = [node.module]
            if any(name.split(".")[0] == "rapidfuzz" for name in names):
                found.add(path.name)
    assert found == {"near.py"}
