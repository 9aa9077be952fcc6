"""Which files a run of a cut writes, and who has to agree to it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import field, replace
from pathlib import Path

from yardcut.core.cutlist.model import Cut
from yardcut.core.errors import Mend, TargetError
from yardcut.core.expressions.frame import Frame
from yardcut.core.language.save_options import TABLE
from yardcut.core.language.syntax.printing import side_text
from yardcut.core.language.syntax_trees import Name
from yardcut.core.language.verbs.save import BoundSave, Save
from yardcut.core.language.write_options import NO_OPTIONS, WriteOptions
from yardcut.core.outgoing import Outgoing, Protected
from yardcut.core.paths import path_of
from yardcut.core.placing import named_with_link
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.scanning.rounds import Runner
from yardcut.core.sources.elsewhere.addresses import is_address, without_secret
from yardcut.core.sources.spec import SourceSpec
from yardcut.core.writers.parting import filled
from yardcut.core.writers.plans import Plan, plan_of
from yardcut.core.writers.saving_slices import (
    Parting,
    Written,
    check_none_is_there,
    save_parted,
    save_slice,
    with_more_said,
)
from yardcut.core.writers.slices_there import SliceThere, slice_there
from yardcut.core.writers.source_form import in_source_form
from yardcut.core.writers.texts.own_texts import own_texts

ROWS_OF_A_FILE = 1_000_000
"""What a directory is filled with: files of so many rows."""
_SLICE = "slice.csv"


@dataclass(frozen=True, slots=True)
class RunOptions:
    """What a run is told besides its list.

    ``out`` stands in place of the last save line's path; ``replace`` allows any target to be replaced; ``base`` is the
    list's own directory, which relative targets start from. ``names`` stand in the places ``{…}`` of paths; ``each`` is
    the name and the value that tells one of several runs from the others, and stands in every path. ``reports`` are
    where its report goes, ``written`` the files that earlier runs of the same command have written. ``with_hints`` has
    each line looked at for what the prompt would say of it. ``ran_elsewhere`` are the places of lines that were carried
    out where the rows stand; a slice that ``goes_on`` has its header already.
    """

    out: Path | None = None
    replace: bool = False
    base: Path = Path()
    names: Mapping[str, str] = field(default_factory=dict)
    each: tuple[str, str] | None = None
    reports: tuple[Path, ...] = ()
    with_hints: bool = False
    written: tuple[Path, ...] = ()
    to_server: bool = False
    ran_elsewhere: frozenset[int] = frozenset()
    goes_on: bool = False

    def left_of(self, cut: Cut) -> Cut:
        """Return a cut with those lines switched off that ran elsewhere."""
        for place in self.ran_elsewhere:
            cut = cut.with_line(place, cut.lines[place].switched())
        return cut

    def target(self, save: Save | None) -> Target:
        """Return where a slice without a save line goes, or that of the last one; only where ``out`` is given.

        Into a directory it goes in several files, which are called as the save line calls its own. Raises
        ``TargetError`` for what is no path.
        """
        assert self.out is not None
        if is_address(str(self.out).replace(":/", "://", 1)):
            raise TargetError(
                "--out names a file, and not a table of a server",
                mend=Mend("write it as a line: save \"postgresql://host/yard\" table 'oak'"),
            )
        if not self.out.is_dir():
            path = _named(self.out, self)
            if save is None:
                return Target(path, self.replace)
            named = save.format if self.out.name == Path(save.path).name else None
            return replace(Target.of(path, save, self.replace), format=named)
        if save is None or is_address(save.path):
            return Target(_named(self.out / _SLICE, self), self.replace, parting=Parting(per_rows=ROWS_OF_A_FILE))
        found = Target.of(_named(self.out / path_of(save.path, TargetError).name, self), save, self.replace)
        return replace(found, parting=found.parting or Parting(per_rows=ROWS_OF_A_FILE))


@dataclass(frozen=True, slots=True)
class Target:
    """What a save line writes: one file, or one for each part of the slice.

    A list may come from somebody else, and its word ``replace`` is good for its own directory only: ``is_outside``
    tells that the file is elsewhere (a link in the directory that leads out of it among them). Where there is an
    ``address`` it is a table of a server or an object of a bucket, and ``is_agreed`` tells that somebody agreed to
    write there.
    """

    path: Path
    replace: bool = False
    format: str | None = None
    options: WriteOptions = NO_OPTIONS
    parting: Parting | None = None
    is_outside: bool = False
    allowed_by_list: bool = False
    address: str = ""
    is_agreed: bool = False

    @classmethod
    def named(cls, save: Save, base: Path = Path(), *, may_replace: bool = False) -> Target:
        """Return what a save line writes, its path from a folder; or the table of a server that it names.

        Raises ``TargetError``.
        """
        if not is_address(save.path):
            return cls.of(base / path_of(save.path, TargetError), save, may_replace)
        slice_there(save.path)
        address = without_secret(save.path)
        return replace(cls.of(Path(address), save, may_replace), address=address)

    @classmethod
    def of(cls, path: Path, save: Save, may_replace: bool) -> Target:
        """Return what a save line's own words say of a path."""
        parting = None
        if save.per:
            parting = Parting(tuple(each.name if isinstance(each, Name) else side_text(each) for each in save.per))
        elif save.per_rows is not None:
            parting = Parting(per_rows=save.per_rows)
        return cls(path, may_replace, save.format, save.options, parting)

    def bound(self, body: BoundSave) -> Target:
        """Return it with the value its slice is parted by."""
        if self.parting is None or not body.per:
            return self
        return replace(self, parting=replace(self.parting, per=body.per))

    @property
    def plan(self) -> Plan:
        """How it is written. Raises ``TargetError``."""
        if not self.address:
            return plan_of(self.path, self.format, self.options)
        return self.elsewhere.plan(self.format, self.options, is_parted=self.parting is not None)

    @property
    def elsewhere(self) -> SliceThere:
        """What it is where it is no file: only where there is an ``address``."""
        return slice_there(self.address, self.options[TABLE] or "", replace=self.replace)

    def outgoing(self, protected: Protected) -> Outgoing:
        """Return the file it is, or the name its parts are made of."""
        return Outgoing(self.path, protected, self.replace)

    def sentence(self) -> str:
        """Say what will be done to which file."""
        if self.address:
            over = ", in the place of one that is there" if self.replace else ""
            return f"writes {self.elsewhere}{over}"
        there = " and replaces what is there" if self.replace and self.path.is_file() else ""
        outside = "; that is outside the list's directory" if self.is_outside else ""
        parted = ""
        if self.parting is not None:
            rows = self.parting.per_rows
            parted = f", one file per {', '.join(self.parting.names) if rows is None else f'{rows:,} rows'}"
        return f"writes {named_with_link(self.path)}{parted}{there}{outside}"


def targets_of(cut: Cut, options: RunOptions) -> dict[int, Target]:
    """Return what each save line, by its number from 0, writes to."""
    saves = [number for number, line in enumerate(cut.lines) if line.verb == "save" and not line.is_off]
    found = {}
    for number in saves:
        save = cut.lines[number].statement().body
        assert isinstance(save, Save)
        if number == saves[-1] and options.out is not None:
            found[number] = options.target(save)
            continue
        if is_address(save.path):
            target = Target.named(save, may_replace=options.replace or save.replace)
            found[number] = replace(target, is_agreed=options.to_server)
            continue
        path = _named(options.base / path_of(save.path, TargetError), options)
        is_outside = not path.resolve().is_relative_to(options.base.resolve())
        may = options.replace or (save.replace and not is_outside)
        target = Target.of(path, save, may)
        found[number] = replace(target, is_outside=is_outside, allowed_by_list=save.replace)
    return found


def _named(path: Path, options: RunOptions) -> Path:
    text = str(path)
    for name, value in options.names.items():
        text = text.replace(f"{{{name}}}", value)
    if options.each is None:
        return Path(text)
    dial, name = options.each
    return filled(Path(text), (dial,), (name,))


def check_targets(targets: Sequence[Target], protected: Protected) -> None:
    """Raise ``TargetError`` for the first target that must not or cannot be written."""
    for target in targets:
        _ = target.plan
        if target.address:
            if not target.is_agreed:
                raise TargetError(
                    f"the list writes {target.elsewhere}", mend=Mend("allow that with --to-server, if you want it")
                )
            target.elsewhere.check_there(CancelToken())
            continue
        if target.is_outside and target.allowed_by_list and not target.replace and target.path.is_file():
            raise TargetError(
                f"the list replaces {target.path}, outside its own directory",
                mend=Mend("allow that with --replace, if you want it"),
            )
        target.outgoing(protected).check(may_exist=target.parting is not None)
        if target.parting is not None and not target.replace:
            check_none_is_there(target.path, target.parting)


def write_target(
    frame: Frame, target: Target, spec: SourceSpec, protected: Protected, token: CancelToken, progress: Progress,
    carries: Callable[[], str] = lambda: "", runner: Runner | None = None,
) -> Written:  # fmt: skip
    """Write a slice as a target says, and read it back; cells nobody computed as they stand in the source.

    ``carries`` returns the list that it remembers, where its format has a place for it. Whoever makes rounds elsewhere
    may write it: the ``runner`` of its table.

    Raises ``TargetError``, ``SourceError`` and ``StoppedError``; nothing half-written is left.
    """
    if target.address:
        return _write_elsewhere(frame, target, spec, token, progress)
    plan, form = in_source_form(target.plan, frame.table.info.files)
    if plan.format.carried:
        plan = replace(plan, carries=carries())
    out = target.outgoing(protected)
    out.check(may_exist=target.parting is not None)
    here = ""
    if runner is not None and runner.workers:
        from yardcut.core.writers.writing_apart import Apart

        by_workers, here = Apart(runner, spec, token, progress).save(frame, out, plan, target.parting)
        if by_workers is not None:
            return with_more_said(by_workers, *filter(None, [form]))
    at_once = target.parting is None and not target.path.is_fifo()
    with own_texts(frame, spec, plan, token, progress, at_once=at_once) as own:
        if target.parting is None:
            written = save_slice(frame, out, plan, token=token, progress=progress, own=own.texts)
        else:
            written = save_parted(frame, out, plan, target.parting, token=token, progress=progress, own=own.texts)
    return with_more_said(written, *filter(None, (form, own.why_not, here)))


def _write_elsewhere(frame: Frame, target: Target, spec: SourceSpec, token: CancelToken, progress: Progress) -> Written:
    def here(path: Path) -> Written:
        file = replace(target, path=path, address="", replace=False)
        return write_target(frame, file, spec, Protected(), token, progress)

    return target.elsewhere.write(frame, here, token, progress)
