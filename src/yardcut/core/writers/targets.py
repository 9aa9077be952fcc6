"""Which files a run of a cut writes, and who has to agree to it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import Mend, TargetError
from yardcut.core.language.verbs.save import Save
from yardcut.core.paths import path_of
from yardcut.core.placing import named_with_link
from yardcut.core.writers.saving import check_target, format_of


@dataclass(frozen=True, slots=True)
class RunOptions:
    """What a run is told besides its list.

    ``out`` stands in place of the last save line's path; ``replace`` allows any target to be replaced; ``base`` is the
    list's own directory, which relative targets start from.
    """

    out: Path | None = None
    replace: bool = False
    base: Path = Path()


@dataclass(frozen=True, slots=True)
class Target:
    """One file a run writes.

    A list may come from somebody else, and its word ``replace`` is good for its own directory only: ``is_outside``
    tells that the file is elsewhere (a link in the directory that leads out of it among them).
    """

    path: Path
    replace: bool
    format: str | None = None
    is_outside: bool = False
    allowed_by_list: bool = False

    def sentence(self) -> str:
        """Say what will be done to which file."""
        there = " and replaces what is there" if self.replace and self.path.is_file() else ""
        outside = "; that is outside the list's directory" if self.is_outside else ""
        return f"writes {named_with_link(self.path)}{there}{outside}"


def targets_of(cut: Cut, options: RunOptions) -> dict[int, Target]:
    """Return what each save line, by its number from 0, writes to."""
    saves = [number for number, line in enumerate(cut.lines) if line.verb == "save" and not line.is_off]
    found = {}
    for number in saves:
        save = cut.lines[number].statement().body
        assert isinstance(save, Save)
        if number == saves[-1] and options.out is not None:
            named = save.format if options.out.name == Path(save.path).name else None
            found[number] = Target(options.out, options.replace, named)
            continue
        path = options.base / path_of(save.path, TargetError)
        is_outside = not path.resolve().is_relative_to(options.base.resolve())
        may = options.replace or (save.replace and not is_outside)
        found[number] = Target(path, may, save.format, is_outside, save.replace)
    return found


def check_targets(targets: Sequence[Target], sources: Sequence[Path]) -> None:
    """Raise ``TargetError`` for the first target that must not or cannot be written."""
    for target in targets:
        format_of(target.path, target.format)
        if target.is_outside and target.allowed_by_list and not target.replace and target.path.is_file():
            raise TargetError(
                f"the list replaces {target.path}, outside its own directory",
                mend=Mend("allow that with --replace, if you want it"),
            )
        check_target(target.path, sources, replace=target.replace)
