"""A slice as an object of an S3 bucket: written and counted here, sent under another name, then given its own.

An object is there whole or not at all: what is broken off or stopped leaves neither it nor the other.
"""

from __future__ import annotations

import dataclasses
import os
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TYPE_CHECKING, ClassVar

from yardcut.core import litter
from yardcut.core.errors import Mend, SourceError, TargetError, TargetExistsError
from yardcut.core.language.save_options import WITH_LIST
from yardcut.core.language.write_options import WriteOptions
from yardcut.core.private import private_folder
from yardcut.core.progress import CancelToken, Progress
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.addresses import name_of
from yardcut.core.sources.elsewhere.bucket_patterns import bucket, bucket_refused
from yardcut.core.sources.elsewhere.buckets import key_of_object
from yardcut.core.sources.store.own_folders import PIPED, own_folder, stores_folder
from yardcut.core.writers.plans import Plan, plan_of
from yardcut.core.writers.slices_there import WriteHere

if TYPE_CHECKING:
    from yardcut.core.expressions.frame import Frame
    from yardcut.core.writers.saving_slices import Written

_PIECE_BYTES = 1 << 22
_MOST_BYTES = 5 * 10**9
"""What the service copies in one request, which gives an object its name."""


@dataclass(frozen=True, slots=True)
class BucketObject:
    """An object to be written, perhaps in the place of one that is there."""

    address: str
    table: str = ""
    replace: bool = False
    nothing_to_choose: ClassVar[str] = ""

    def __str__(self) -> str:
        return self.address

    def plan(self, format_name: str | None, options: WriteOptions, *, is_parted: bool) -> Plan:
        """Return how it is written. Raises ``TargetError`` for what an object has not."""
        for words in ["one file per"] * is_parted + ["with list"] * options[WITH_LIST]:
            raise TargetError(f"an object of a bucket has no {words}", mend=Mend("leave it out"))
        return plan_of(Path(name_of(self.address)), format_name, options)

    def check_there(self, token: CancelToken) -> None:
        """Look whether it may be put there. Raises ``TargetError``, ``TargetExistsError``."""
        with _as_target(self.address):
            if not self.replace and _is_there(key_of_object(self.address)):
                raise TargetExistsError(f"{self.address} is there already", mend=Mend("add: replace"))

    def write(self, piece: Frame, here: WriteHere, token: CancelToken, progress: Progress) -> Written:
        """Write a slice here, and send it. Raises ``TargetError`` and ``StoppedError``."""
        with _written_here(self.address) as path:
            written = dataclasses.replace(here(path), where=self.address)
            self.put(path, token, progress)
        return written

    def put(self, path: Path, token: CancelToken, progress: Progress) -> None:
        """Send a file. Raises ``TargetError`` and ``StoppedError``; nothing half-sent is left."""
        size = path.stat().st_size
        if size > _MOST_BYTES:
            raise TargetError(
                f"{self.address}: {size:,} bytes are more than one object takes at once",
                mend=Mend("write several: one file per 10000000 rows, to a folder here"),
            )
        key = key_of_object(self.address)
        beside = f"{key}.{os.urandom(4).hex()}.part"
        progress.begin("sending", size)
        with _as_target(self.address):
            try:
                with open(path, "rb") as file, bucket().open_output_stream(beside, compression=None) as stream:
                    while piece := file.read(_PIECE_BYTES):
                        stream.write(piece)
                        progress.advance(len(piece))
                        if token.cancelled:
                            break
                token.check()
                if bucket().get_file_info(beside).size != size:
                    raise TargetError(f"{self.address}: not all of {size:,} bytes came there")
                self.check_there(token)
                bucket().move(beside, key)
            except BaseException:
                with suppress(OSError):
                    bucket().delete_file(beside)
                raise


@contextmanager
def _written_here(address: str) -> Iterator[Path]:
    """Give a path for what is to be sent, with the object's own name; it is gone afterwards. Raises ``TargetError``."""
    folder = stores_folder().parent
    try:
        private_folder(folder)
        own = own_folder(folder, PIPED)
    except OSError as error:
        raise TargetError(f"{folder} cannot be written to: {error.strerror}") from error
    try:
        yield own / name_of(address)
    finally:
        litter.drop(own)


def _is_there(key: str) -> bool:
    from pyarrow import fs

    return bool(bucket().get_file_info(key).type != fs.FileType.NotFound)


@contextmanager
def _as_target(address: str) -> Iterator[None]:
    """Tell what the service says of a target as of a target."""
    try:
        yield
    except SourceError as error:
        raise TargetError(error.message, mend=error.mend) from error
    except OSError as error:
        told = bucket_refused(address, error)
        raise TargetError(told.message, mend=told.mend) from error
