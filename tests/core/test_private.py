"""Who may read what: everything of ours is its owner's alone; a target has the mode it had, or that of a new file."""

import os
import stat
from pathlib import Path

import pytest

from yardcut.core.placing import placed
from yardcut.core.private import private_folder, write_private


def mode(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


@pytest.fixture(params=[0o022, 0o002, 0o077])
def umask(request: pytest.FixtureRequest) -> int:
    before = os.umask(request.param)
    yield request.param
    os.umask(before)


def test_a_new_target_has_the_mode_of_a_new_file_and_is_private_until_it_is_whole(tmp_path: Path, umask: int) -> None:
    path = tmp_path / "slice.csv"
    with placed(path, replace=False) as beside:
        assert mode(beside) == 0o600
        beside.write_text("ticket\n")
    (tmp_path / "plain").touch()
    assert mode(path) == mode(tmp_path / "plain") == 0o666 & ~umask
    assert sorted(os.listdir(tmp_path)) == ["plain", "slice.csv"]


@pytest.mark.parametrize("before", [0o600, 0o640, 0o664, 0o444, 0o755])
def test_a_replaced_target_keeps_its_mode(tmp_path: Path, before: int, umask: int) -> None:
    path = tmp_path / "slice.csv"
    path.touch()
    path.chmod(before)
    with placed(path, replace=True) as beside:
        beside.write_text("ticket\n")
    assert (mode(path), path.read_text()) == (before, "ticket\n")


@pytest.mark.skipif(os.geteuid() != 0, reason="only the superuser may give a file to somebody else")
def test_a_replaced_target_keeps_its_owner(tmp_path: Path) -> None:
    path = tmp_path / "slice.csv"
    path.touch()
    os.chown(path, 1234, 2345)
    with placed(path, replace=True) as beside:
        beside.write_text("ticket\n")
    assert (path.stat().st_uid, path.stat().st_gid) == (1234, 2345)


@pytest.mark.parametrize("is_there", [True, False])
def test_a_link_stays_a_link_and_what_it_leads_to_is_written(tmp_path: Path, is_there: bool) -> None:
    (tmp_path / "kept").mkdir()
    target, link = tmp_path / "kept" / "real.csv", tmp_path / "slice.csv"
    if is_there:
        target.write_text("old\n")
    link.symlink_to(target)
    with placed(link, replace=is_there) as beside:
        assert beside.parent == target.parent
        beside.write_text("new\n")
    assert link.is_symlink()
    assert target.read_text() == "new\n"
    assert os.listdir(tmp_path / "kept") == ["real.csv"]


def test_a_target_that_came_up_meanwhile_is_not_replaced(tmp_path: Path) -> None:
    path = tmp_path / "slice.csv"
    with pytest.raises(FileExistsError), placed(path, replace=False) as beside:
        beside.write_text("ours\n")
        path.write_text("theirs\n")
    assert path.read_text() == "theirs\n"
    assert os.listdir(tmp_path) == ["slice.csv"]


def test_nothing_is_left_of_what_did_not_end_well(tmp_path: Path) -> None:
    with pytest.raises(ZeroDivisionError), placed(tmp_path / "slice.csv", replace=True):
        1 / 0  # noqa: B018
    assert os.listdir(tmp_path) == []


def test_our_own_files_and_folders_are_private(tmp_path: Path, umask: int) -> None:
    (tmp_path / "open").mkdir(mode=0o755)
    assert mode(private_folder(tmp_path / "open")) == 0o700
    assert mode(private_folder(tmp_path / "new" / "below")) == mode(tmp_path / "new") == 0o700
    path = tmp_path / "report.json"
    path.write_text("old")
    path.chmod(0o644)
    write_private(path, b"{}")
    assert mode(path) == 0o600
