"""Small changes to the core, each tried against the tests about its file: what no test notices is not held by any.

``make mutants`` (an hour; never in the suite) prints each that survives with its place and the change, and the share
that was caught. ``--count`` and ``--seed`` choose. A change is a bound, a sign, an ``and``, a number, a mask left out.
"""

from __future__ import annotations

import argparse
import ast
import os
import random
import re
import resource
import shutil
import signal
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = ROOT / "src" / "yardcut" / "core"
ROOMS = (
    "expressions",
    "ranking",
    "profile",
    "run",
    "language",
    "values",
    "table",
    "sources",
    "sql",
    "writers",
    "scanning",
    "cutlist",
)
SECONDS = 60
READING = [
    f"tests/core/{name}.py"
    for name in (
        "sources/test_delimited",
        "sources/test_titles_and_footers",
        "sources/test_on_demand",
        "writers/test_read_back",
        "sources/test_read_alike",
    )
]
"""Of a room whose tests take longer than a mutant has."""
_COMPARED = {
    "<": "<=",
    "<=": "<",
    ">": ">=",
    ">=": ">",
    "==": "!=",
    "!=": "==",
    "is": "is not",
    "is not": "is",
    "in": "not in",
    "not in": "in",
}
_COMPUTED = {"+": "-", "-": "+", "*": "+", "//": "*", "%": "*", "|": "&", "&": "|", "<<": ">>", ">>": "<<"}
_SIGNS: dict[type[ast.AST], str] = {
    ast.Lt: "<", ast.LtE: "<=", ast.Gt: ">", ast.GtE: ">=", ast.Eq: "==", ast.NotEq: "!=", ast.Is: "is", ast.IsNot: "is not", ast.In: "in", ast.NotIn: "not in",
    ast.Add: "+", ast.Sub: "-", ast.Mult: "*", ast.FloorDiv: "//", ast.Mod: "%", ast.BitOr: "|", ast.BitAnd: "&", ast.LShift: "<<", ast.RShift: ">>",
}  # fmt: skip
_LARGE = 100
_CALLED = {
    "min": "max",
    "max": "min",
    "any": "all",
    "all": "any",
    "minimum": "maximum",
    "maximum": "minimum",
    "floor": "ceil",
}


@dataclass(frozen=True)
class Mutant:
    """A file with some characters put in place of others."""

    path: Path
    start: int
    end: int
    text: str
    line: int

    def said(self) -> str:
        """Say it."""
        source = self.path.read_text(encoding="utf-8")
        whole = source.splitlines()[self.line - 1].strip()
        return f"{self.path.relative_to(ROOT)}:{self.line}  {source[self.start : self.end]!r} → {self.text!r}   {whole[:110]}"


def mutants_of(path: Path) -> Iterator[Mutant]:
    """Yield all changes of a file that mean something: none of annotations, texts, limits, or what only says things."""
    source = path.read_text(encoding="utf-8")
    lines = [0]
    for line in source.encode().splitlines(keepends=True):
        lines.append(lines[-1] + len(line))
    raw = source.encode()

    def place(node: ast.AST, *, end: bool = False) -> int:
        at = lines[(node.end_lineno if end else node.lineno) - 1] + (node.end_col_offset if end else node.col_offset)  # type: ignore[attr-defined]
        return len(raw[:at].decode())

    def between(one: ast.AST, other: ast.AST, sign: str, text: str) -> Iterator[Mutant]:
        start, end = place(one, end=True), place(other)
        found = re.search(rf"(?<![\w<>=!*/]){re.escape(sign)}(?![\w<>=*/])", source[start:end])
        if found is not None:
            yield Mutant(path, start + found.start(), start + found.end(), text, one.end_lineno or 0)  # type: ignore[attr-defined]

    for node in _meant(ast.parse(source)):
        match node:
            case ast.Compare(left=left, ops=[op], comparators=[right]) if type(op) in _SIGNS:
                yield from between(left, right, _SIGNS[type(op)], _COMPARED[_SIGNS[type(op)]])
            case ast.BinOp(left=left, op=op, right=right) if _SIGNS.get(type(op)) in _COMPUTED:
                yield from between(left, right, _SIGNS[type(op)], _COMPUTED[_SIGNS[type(op)]])
            case ast.BoolOp(op=op, values=[first, second, *_]):
                word = "and" if isinstance(op, ast.And) else "or"
                yield from between(first, second, word, "or" if word == "and" else "and")
            case ast.UnaryOp(op=ast.Not() | ast.Invert(), operand=operand):
                yield Mutant(path, place(node), place(operand), "", node.lineno)
            case ast.Constant(value=bool() as value):
                yield Mutant(path, place(node), place(node, end=True), str(not value), node.lineno)
            case ast.Constant(value=int() as value) if value < _LARGE:
                yield Mutant(path, place(node), place(node, end=True), str(value + 1), node.lineno)
            case ast.Call(func=ast.Name(id=name) | ast.Attribute(attr=name)) if name in _CALLED:
                end = place(node.func, end=True)
                yield Mutant(path, end - len(name), end, _CALLED[name], node.lineno)
            case ast.IfExp(body=body, orelse=orelse):
                yield Mutant(
                    path,
                    place(body),
                    place(body, end=True),
                    source[place(orelse) : place(orelse, end=True)],
                    node.lineno,
                )


def _meant(node: ast.AST) -> Iterator[ast.AST]:
    """Yield the nodes of what works: no annotations, raised errors, assertions, limits of the module, or formatted texts."""
    if isinstance(node, ast.Raise | ast.Assert | ast.JoinedStr | ast.Import | ast.ImportFrom):
        return
    if isinstance(node, ast.Assign) and isinstance(node.targets[0], ast.Name) and node.targets[0].id.isupper():
        return
    yield node
    for name, value in ast.iter_fields(node):
        if name in ("annotation", "returns", "decorator_list", "bases", "keywords") and not isinstance(node, ast.Call):
            continue
        for child in value if isinstance(value, list) else [value]:
            if isinstance(child, ast.AST):
                yield from _meant(child)


def tests_about(path: Path) -> list[str]:
    """Return the tests that are called like a module, those that name it, the truth, and those of its room."""
    module = ".".join(path.relative_to(ROOT / "src").with_suffix("").parts)
    found = []
    for test in sorted((ROOT / "tests").rglob("test_*.py")):
        if test.parts[-2] in ("tmux", "tui", "cli"):
            continue
        if test.stem == f"test_{path.stem}" or module in test.read_text(encoding="utf-8"):
            found.append(str(test.relative_to(ROOT)))
    found.sort(key=lambda test: Path(test).stem != f"test_{path.stem}")
    room = ROOT / "tests" / "core" / path.relative_to(CORE).parts[0]
    whole = READING if room.name == "sources" else [str(room.relative_to(ROOT))] if room.exists() else []
    return list(dict.fromkeys([*found, "tests/test_truth.py", *whole]))


def _bounded() -> None:
    """Let the tests have their seconds of a processor's time: others may use it too."""
    resource.setrlimit(resource.RLIMIT_CPU, (SECONDS, SECONDS + 5))


def outcome(mutant: Mutant, folder: Path) -> str:
    """Say what the tests do where a file is changed: it is "caught", or "survived", or they have no "end" in time."""
    place = Path(tempfile.mkdtemp(dir=folder))
    try:
        shutil.copytree(ROOT / "src", place / "src", ignore=shutil.ignore_patterns("__pycache__"))
        source = mutant.path.read_text(encoding="utf-8")
        (place / "src" / mutant.path.relative_to(ROOT / "src")).write_text(
            source[: mutant.start] + mutant.text + source[mutant.end :], encoding="utf-8"
        )
        environment = {
            **os.environ,
            "PYTHONPATH": str(place / "src"),
            "PYTHONDONTWRITEBYTECODE": "1",
            "TMPDIR": str(place),
        }
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests_about(mutant.path)]
        try:
            done = subprocess.run(
                command, cwd=ROOT, env=environment, capture_output=True, timeout=SECONDS * 10, check=False, preexec_fn=_bounded
            )  # fmt: skip
        except subprocess.TimeoutExpired:
            return "no end"
        return "no end" if done.returncode == -signal.SIGXCPU else "caught" if done.returncode else "survived"
    finally:
        shutil.rmtree(place, ignore_errors=True)


def main() -> int:
    """Try some mutants, and print those that survive."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--workers", type=int, default=2)
    asked = parser.parse_args()
    everywhere = [
        mutant for room in ROOMS for path in sorted((CORE / room).rglob("*.py")) for mutant in mutants_of(path)
    ]
    chosen = random.Random(asked.seed).sample(everywhere, asked.count)
    print(f"{len(chosen)} of {len(everywhere):,} changes, seed {asked.seed}", flush=True)
    outcomes: Counter[str] = Counter()
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(asked.workers) as pool:
        for number, (mutant, found) in enumerate(
            zip(chosen, pool.map(lambda each: outcome(each, Path(folder)), chosen), strict=True), 1
        ):
            outcomes[found] += 1
            if found != "caught":
                print(f"{found} {number}: {mutant.said()}", flush=True)
            elif number % 20 == 0:
                print(f"{outcomes['caught']} of {number} caught", flush=True)
    print(f"{outcomes['caught']} of {len(chosen)} caught: {outcomes['caught'] / len(chosen):.1%}; {dict(outcomes)}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
