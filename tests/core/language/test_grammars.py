"""Tables of grammars kept for the next start: the same parser, or none where they cannot be trusted."""

from __future__ import annotations

import pickle
from collections.abc import Callable
from pathlib import Path

import pytest
from lark import Lark, Tree, UnexpectedInput

from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.syntax import grammars, packed_parsers

LINE = "kind felled_on date, sold_on text"


@pytest.fixture
def load(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Callable[[], bool]:
    """Load the grammar as another process would; tells whether it had to be built."""
    truth = grammars.grammar("source", "sub_line").parse(LINE)
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))

    def again() -> bool:
        built: list[object] = []
        with monkeypatch.context() as patch:
            keep = grammars._keep
            patch.setattr(grammars, "_keep", lambda each, path: (built.append(each), keep(each, path)))
            parser = grammars._load.__wrapped__("source", "sub_line")
        tree = parser.parse(LINE)
        assert tree == truth
        assert [token.start_pos for token in tree.scan_values(lambda token: True)] == [
            token.start_pos for token in truth.scan_values(lambda token: True)
        ]
        return bool(built)

    return again


def kept(tmp_path: Path) -> Path:
    (path,) = (tmp_path / "yardcut" / "grammars").iterdir()
    return path


def test_they_are_worked_out_once(load: Callable[[], bool], tmp_path: Path) -> None:
    assert load()
    assert not load()
    assert kept(tmp_path).stat().st_mode & 0o777 == 0o600


@pytest.mark.parametrize("share", [0.0, 0.01, 0.5, 0.999])
def test_damaged_ones_are_built_anew(load: Callable[[], bool], tmp_path: Path, share: float) -> None:
    load()
    path = kept(tmp_path)
    content = bytearray(path.read_bytes())
    place = int(len(content) * share)
    content[place] ^= 1
    path.write_bytes(content)
    assert load()
    assert not load()
    whole = path.read_bytes()  # not of the same size: sets have another order in it
    path.write_bytes(whole[: int(len(whole) * share)])
    assert load()


def test_what_others_can_write_is_not_loaded(load: Callable[[], bool], tmp_path: Path) -> None:
    load()
    kept(tmp_path).chmod(0o666)
    assert load()
    kept(tmp_path).parent.chmod(0o777)
    assert load()


def test_a_closed_cache_directory_only_costs_time(load: Callable[[], bool], tmp_path: Path) -> None:
    (tmp_path / "yardcut").write_text("a file where a directory would be")
    assert load()
    assert load()


@pytest.mark.few(1)
@pytest.mark.parametrize("as_it_stands", [True, False])
def test_a_parser_that_was_packed_reads_as_the_one_that_was_built(
    as_it_stands: bool, monkeypatch: pytest.MonkeyPatch
) -> None:
    built = Lark(grammars.grammar_text(), parser="lalr", lexer="contextual", start="statement",
                 maybe_placeholders=False, propagate_positions=True)  # fmt: skip
    if not as_it_stands:
        monkeypatch.setattr(packed_parsers, "_Pickler", pickle.Pickler)  # as with a library that it does not know
    content = packed_parsers.packed(built)
    assert content.startswith(b"P") is as_it_stands
    again = packed_parsers.unpacked(content)
    page = (Path(__file__).parents[3] / "docs" / "language.md").read_text(encoding="utf-8")
    examples = [f"keep {signature.example}" for signature in FUNCTIONS.values()]
    read = 0
    for line in dict.fromkeys([*map(str.strip, page.splitlines()), *examples]):
        outcomes = []
        for parser in (built, again):
            try:
                tree = parser.parse(line)
                outcomes.append((tree, [token.start_pos for token in tree.scan_values(lambda token: True)]))
            except UnexpectedInput as error:
                outcomes.append((type(error), error.pos_in_stream))
        assert outcomes[0] == outcomes[1]
        read += isinstance(outcomes[0][0], Tree)
    assert read > 50
