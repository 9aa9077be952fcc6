"""What keeps the house one that is found one's way about: sizes, names, no circles, and documents that are true."""

from __future__ import annotations

import ast
import re
from collections import defaultdict
from collections.abc import Iterator
from functools import cache
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]
SOURCE = ROOT / "src" / "yardcut"
FILES = sorted(SOURCE.rglob("*.py"))
MOST_LINES, MOST_OF_A_FUNCTION, MOST_FILES = 400, 40, 17
MOST_METHODS = 20
ROLES = {"formats", "verbs", "works", "cards", "cli"}
"""Rooms whose files stand for a format, a verb, a card or a command: the room makes plain which one is meant."""


@cache
def trees() -> dict[Path, ast.Module]:
    """Parse all files, once and not before a test asks."""
    return {path: ast.parse(path.read_text(encoding="utf-8")) for path in FILES}


def test_no_module_and_no_function_is_long() -> None:
    long = [path.name for path in FILES if path.read_text(encoding="utf-8").count("\n") > MOST_LINES]
    for path, tree in trees().items():
        for node in ast.walk(tree):
            if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef):
                lines = (node.end_lineno or 0) - node.lineno + 1
                if lines > MOST_OF_A_FUNCTION:
                    long.append(f"{path.name}: {node.name}, {lines} lines")
    assert long == []


def test_no_class_has_very_many_public_methods() -> None:
    wide = {}
    for tree in trees().values():
        for node in ast.walk(tree):
            if isinstance(node, ast.ClassDef):
                public = sum(isinstance(each, ast.FunctionDef | ast.AsyncFunctionDef) and not each.name.startswith("_")
                             for each in node.body)  # fmt: skip
                if public > MOST_METHODS:
                    wide[node.name] = public
    assert wide == {}


def test_no_room_holds_very_many_files() -> None:
    rooms = defaultdict(list)
    for path in FILES:
        if path.stem != "__init__":
            rooms[path.parent].append(path.name)
    assert {room.name: len(files) for room, files in rooms.items() if len(files) > MOST_FILES} == {}
    assert all((room / "__init__.py").exists() for room in rooms)


def test_a_name_stands_for_one_file() -> None:
    named = defaultdict(list)
    for path in FILES:
        if path.stem != "__init__" and not ROLES & set(path.relative_to(SOURCE).parts):
            named[path.stem].append(path.relative_to(SOURCE))
    assert {name: paths for name, paths in named.items() if len(paths) > 1} == {}
    for role in ROLES:
        of_role = [path.stem for path in FILES if role in path.parts and path.stem != "__init__"]
        twice = {name for name in of_role if of_role.count(name) > 1}
        assert twice == set() or role == "formats", (
            f"{role}: {twice}"
        )  # a format is read in one room, written in another


def _module(path: Path) -> str:
    return ".".join(path.relative_to(SOURCE.parent).with_suffix("").parts).removesuffix(".__init__")


MODULES = {_module(path): path for path in FILES}


def _imported(tree: ast.AST) -> Iterator[str]:
    """Yield the modules of ours that are imported anywhere: at the top, within functions, for types alone."""
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom) and node.module is not None:
            for alias in node.names:
                whole = f"{node.module}.{alias.name}"
                yield whole if whole in MODULES else node.module
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


def test_nothing_imports_itself_by_way_of_others() -> None:
    imports = {name: {each for each in _imported(trees()[path]) if each in MODULES} for name, path in MODULES.items()}
    done: set[str] = set()
    circles: list[list[str]] = []

    def follow(name: str, way: list[str]) -> None:
        if name in way:
            circles.append([*way[way.index(name) :], name])
        elif name not in done:
            for other in sorted(imports[name]):
                follow(other, [*way, name])
            done.add(name)

    for name in sorted(imports):
        follow(name, [])
    assert circles == []


@pytest.mark.parametrize("page", ["docs/glossary.md", "docs/architecture.md", "CONTRIBUTING.md", "README.md"])
def test_files_that_documents_name_are_there(page: str) -> None:
    text = (ROOT / page).read_text(encoding="utf-8")
    named = set(
        re.findall(
            r"`((?:src|tests|docs|core|tui|cli|sources|language|run|writers|expressions)/[\w/]+\.(?:py|md|lark))`", text
        )
    )
    named |= set(re.findall(r"\]\(((?:docs/)?[\w/.-]+\.(?:md|png|py))\)", text))
    places = [ROOT, ROOT / "docs", SOURCE, SOURCE / "core", SOURCE / "tui"]
    assert [name for name in sorted(named) if not any((place / name).exists() for place in places)] == []


def test_the_glossary_has_a_sentence_and_a_file_for_each_word() -> None:
    rows = [
        line
        for line in (ROOT / "docs" / "glossary.md").read_text(encoding="utf-8").splitlines()
        if line.startswith("| ")
    ][1:]
    assert len(rows) > 25
    for row in rows:
        word, says, where = (cell.strip() for cell in row.strip("|").split("|"))
        assert word, row
        assert says, row
        assert (ROOT / where.strip("`")).exists(), row
