"""Shared by all tests: directories of their own, the demo yard, small tables on the fly."""

from __future__ import annotations

import csv
import gc
import os
from collections.abc import Sequence
from pathlib import Path

import pytest
from hypothesis import settings

from helpers import WriteTable, shared_folder, take_grammars
from thoroughness import IS_LONG, spread
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.session import Session
from yardcut.core.sources.opening_sources import open_table
from yardcut.core.sources.spec import FormLine, SourceSpec
from yardcut.core.table.stored_table import Table
from yardcut.demo.files import write_yard

# A seventh of the suite's time went into looking for garbage among what the tests share.
gc.set_threshold(100_000, 50, 100)
settings.register_profile("yard", deadline=None, max_examples=100 if IS_LONG else 20)
settings.load_profile("yard")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Leave out what is marked as long, and of a large family take some cases, far from each other; the long run has all."""
    if IS_LONG:
        return
    families: dict[str, list[pytest.Item]] = {}
    for item in items:
        if item.get_closest_marker("few"):
            families.setdefault(item.nodeid.partition("[")[0], []).append(item)
    left_out = {
        item
        for cases in families.values()
        for item in set(cases) - set(spread(cases, cases[0].get_closest_marker("few").args[0]))
    }
    items[:] = [item for item in items if item not in left_out and not item.get_closest_marker("long")]


@pytest.fixture(scope="session", autouse=True)
def _own_directories(tmp_path_factory: pytest.TempPathFactory) -> None:
    """Keep caches and state of the tests apart from the user's, and what they save where they stand from the project."""
    for name in ("XDG_CACHE_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME"):
        os.environ[name] = str(tmp_path_factory.mktemp(name.lower()))
    # looking for the fonts of the system takes seconds: once for all tests of this user
    os.environ["MPLCONFIGDIR"] = str(shared_folder("fonts"))
    take_grammars(Path(os.environ["XDG_CACHE_HOME"]))
    os.chdir(tmp_path_factory.mktemp("here"))


@pytest.fixture(scope="session")
def yard(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Return a folder with the ready demo yard."""
    folder = tmp_path_factory.mktemp("yard")
    write_yard(folder, None, CancelToken(), Progress())
    return folder


@pytest.fixture(scope="session")
def packs(yard: Path) -> Session:
    """Return a session on the 2031 file of the demo yard."""
    session = Session(yard / "yard_2031.csv")
    session.open()
    return session


@pytest.fixture
def table_of(tmp_path: Path) -> WriteTable:
    """Return a function that writes rows as CSV and opens them."""

    def write(header: Sequence[str], rows: Sequence[Sequence[object]], name: str = "table.csv") -> Table:
        path = tmp_path / name
        with open(path, "w", encoding="utf-8", newline="") as file:
            # a row of separators alone would be a blank row
            quoted = csv.writer(file, lineterminator="\n", quoting=csv.QUOTE_ALL)
            writer = csv.writer(file, lineterminator="\n")
            writer.writerow(header)
            for row in rows:
                cells = ["" if cell is None else cell for cell in row]
                (writer if any(cell != "" for cell in cells) else quoted).writerow(cells)
        # whatever the last rows look like, they are rows
        return open_table(SourceSpec((str(path),), (FormLine(footer=0),)))

    return write
