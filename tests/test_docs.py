"""What the docs show works: every condition, draw, column list and list, the README's commands, the links."""

from __future__ import annotations

import re
import shlex
from pathlib import Path

import pytest

from commands import yardcut, yardcut_process
from vectors import VECTORS
from yardcut.core.cutlist.file import parse_list
from yardcut.core.cutlist.model import Cut, CutList, Line
from yardcut.core.language.functions import FUNCTIONS
from yardcut.core.language.syntax.parsing_lines import parse_statement
from yardcut.core.progress import CancelToken
from yardcut.core.session import Session
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.unattended import check_cut
from yardcut.tui.keys.page import keys_page

ROOT = Path(__file__).parents[1]
LANGUAGE = (ROOT / "docs" / "language.md").read_text(encoding="utf-8")
README = (ROOT / "README.md").read_text(encoding="utf-8")


def blocks(text: str, word: str) -> list[str]:
    return re.findall(rf"```{word}\n(.*?)```", text, re.DOTALL)


def lines_of(word: str, verb: str) -> list[str]:
    return [f"{verb} {line}" for block in blocks(LANGUAGE, word) for line in block.splitlines() if line]


EXAMPLES = lines_of("condition", "keep") + lines_of("draw", "draw") + lines_of("columns", "columns")
EXAMPLES += lines_of("make", "make") + lines_of("tally", "tally")


@pytest.mark.parametrize("line", EXAMPLES)
def test_every_example_runs_on_the_yard(packs: Session, line: str) -> None:
    from helpers import run_lines

    assert packs.table is not None
    run_lines(packs.table, line)


@pytest.mark.parametrize("name", sorted(FUNCTIONS))
def test_every_function_stands_in_the_docs_and_its_example_runs(packs: Session, name: str) -> None:
    from helpers import run_lines

    signature = FUNCTIONS[name]
    form = signature.form.replace("|", chr(92) + "|")
    row = f"| `{form}` | {signature.does} | `{signature.example}` |"
    assert row in LANGUAGE
    assert packs.table is not None
    (result,) = run_lines(packs.table, f"make found = {signature.example}")
    result.frame.page(0, 3, range(len(result.frame.columns)))


def test_the_example_list_is_right(yard: Path) -> None:
    (text,) = blocks(LANGUAGE, "cut")
    session = Session(SourceSpec(("yard_2031.csv",), (), yard), parse_list(text))
    session.open()
    for cut in session.cut_list.cuts:
        check_cut(session, cut)


@pytest.mark.parametrize(
    ("values", "lines", "shown"),
    [
        (["A,", "B,5", "A,9"], ["draw top 1 by value per group"], ["B,5", "A,9"]),
        ([f"A,{number}" for number in (1, 2, 3, 4)] + ["A,"] * 4, ["draw top 50 percent by value"], ["A,4", "A,3"]),
        (["A,0.1"] * 10, ["make sum = SUM(value)", "columns sum", "draw first 1"], ["1"]),
        (["A,1e16", "A,1", "A,-1e16"], ["make sum = SUM(value)", "columns sum", "draw first 1"], ["1"]),
        (["A,15", "A,15.1"], ["make between = QUANTILE(value, 0.25)", "columns between", "draw first 1"], ["15.025"]),
    ],
)
def test_what_is_said_of_groups_shares_sums_and_quantiles_is_so(
    tmp_path: Path, values: list[str], lines: list[str], shown: list[str]
) -> None:
    (tmp_path / "t.csv").write_text("\n".join(["group,value", *values]) + "\n")
    done = yardcut("cut", "t.csv", *[word for line in lines for word in ("-l", line)], cwd=tmp_path)
    assert [float(line) if "," not in line else line for line in done.stdout.split()[1:]] == [
        float(line) if "," not in line else line for line in shown
    ]


def test_the_test_vectors_are_those_of_the_tests() -> None:
    rows = re.findall(r"\| (\d+) \| (\d+) \| (\d+) \| 0x([0-9A-F]{16}) \|", LANGUAGE)
    assert [(int(seed), int(file), int(row), int(rank, 16)) for seed, file, row, rank in rows] == VECTORS


def test_the_readmes_commands_work(yard: Path, tmp_path: Path) -> None:
    for name in ("yard_2031.csv", "yard_2032.csv", "winter-oak-may.csv", "winter-oak-june.csv"):
        (tmp_path / name).symlink_to(yard / "yard_2031.csv")
    assert (
        yardcut("cut", "yard_2031.csv", "-l", "draw first 3", "--out", "winter-oak.parquet", cwd=tmp_path).returncode
        == 0
    )
    (tmp_path / "winter-oak.cut").write_text(
        'yardcut 1\nsource "yard_2031.csv"\ndial best = 3\ndial grade =\ncut "winter oak"\n'
        "  keep grade = :grade\n  order ticket\n  draw first :best\n"
    )
    commands = [
        line for block in blocks(README, "sh") for line in block.splitlines() if line.startswith("yardcut ")
    ]  # fmt: skip
    assert len(commands) == 10
    for command in commands:
        words = shlex.split(command)[1:]
        done = (yardcut_process if "--cluster" in words else yardcut)(*words, cwd=tmp_path)
        assert done.returncode == 0, done.stderr
        assert ("2 workers" in done.stderr) is ("--cluster" in words)
    assert (tmp_path / "dear.csv").exists()
    assert (tmp_path / "winter-oak.csv").exists()
    assert {"oak-A.csv", "oak-B.csv", "oak-C.csv"} <= {path.name for path in tmp_path.iterdir()}


KNOWN_AS = re.findall(r"^\| (.+?) \| `(.+)` \|$", (ROOT / "docs" / "known-as.md").read_text("utf-8"), re.M)


@pytest.fixture(scope="module")
def yard_with_second_tables(yard: Path, tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("yard")
    for path in yard.iterdir():
        (folder / path.name).symlink_to(path)
    return folder


def run_in(folder: Path, *lines: str) -> None:
    session = Session(
        SourceSpec(("yard_2031.csv",), (), folder),
        CutList(("yard_2031.csv",), (), (Cut("c", tuple(map(Line, lines))),), base=folder),
    )
    session.open()
    results = list(session.results(CancelToken(), seed=1))
    assert len(results) == len(lines), session.bound(session.cut_list.cuts[0])[len(results)].error
    assert results[-1].rows.count


@pytest.mark.parametrize(("said", "line"), KNOWN_AS)
def test_what_it_is_known_as_runs(yard_with_second_tables: Path, said: str, line: str) -> None:
    run_in(yard_with_second_tables, line)


HOW_TO = re.findall(
    r"^### (.+?)\n\n```(lines|sh)\n(.*?)```", (ROOT / "docs" / "how-to.md").read_text("utf-8"), re.M | re.S
)


def test_there_are_as_many_tasks_as_heads() -> None:
    assert len(HOW_TO) == (ROOT / "docs" / "how-to.md").read_text("utf-8").count("\n### ") >= 30


@pytest.mark.parametrize(("task", "text"), [(task, text) for task, kind, text in HOW_TO if kind == "lines"])
def test_every_task_is_done_by_its_lines(yard_with_second_tables: Path, task: str, text: str) -> None:
    run_in(yard_with_second_tables, *text.splitlines())


@pytest.mark.long
def test_every_task_is_done_by_its_commands(yard_with_second_tables: Path, tmp_path: Path) -> None:
    for path in yard_with_second_tables.iterdir():
        (tmp_path / path.name).symlink_to(path)
    (tmp_path / "winter-oak.cut").write_text("yardcut 1\nsource \"yard_2031.csv\"\nkeep species = 'oak'\n")
    for _, kind, text in HOW_TO:
        for command in text.splitlines() if kind == "sh" else ():
            done = yardcut(*shlex.split(command)[1:], cwd=tmp_path)
            assert done.returncode == 0, (command, done.stderr, done.stdout)
    assert {"oak.csv", "first.csv", "grade-a.parquet", "again.parquet", "winter-oak.html", "winter-oak.json"} <= {
        each.name for each in tmp_path.iterdir()
    }


def test_the_site_has_every_page() -> None:
    listed = set(re.findall(r"[\w-]+\.md", (ROOT / "mkdocs.yml").read_text("utf-8")))
    assert listed == {path.name for path in (ROOT / "docs").glob("*.md")}


@pytest.mark.parametrize(
    "option",
    re.findall(
        r"`([^`]+)`", "".join(re.findall(r"^\| (`.*?) \|", LANGUAGE.partition("| option | of | says |")[2], re.M))
    ),
)
def test_every_option_of_a_save_can_be_written(option: str) -> None:
    if option.split()[0] not in ("texts", "all", "crlf"):
        parse_statement(f'save "slice.csv" {option}')


def test_the_readmes_first_slice_can_be_cut(packs: Session) -> None:
    from helpers import run_lines

    lines = [line for line in re.findall(r"`((?:keep|make \w+ =|draw|columns) [^`]+)`", README) if "\n" not in line]
    assert packs.table is not None
    assert len(lines) == 3
    assert run_lines(packs.table, "drop bay = 'ALL BAYS'", *lines)[-1].rows.count == 20


def test_links_and_pictures_are_there() -> None:
    for page in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
        for target in re.findall(r"\]\(([^)#]+)\)", page.read_text(encoding="utf-8")):
            assert (page.parent / target).exists(), f"{page.name}: {target}"
    pictures = {path.name for path in (ROOT / "docs" / "screenshots").glob("*.png")}
    assert pictures == set(re.findall(r"screenshots/([\w-]+\.png)", README))


def test_the_page_of_keys_is_made_from_the_keymap() -> None:
    assert (ROOT / "docs" / "keys.md").read_text(encoding="utf-8") == keys_page()
