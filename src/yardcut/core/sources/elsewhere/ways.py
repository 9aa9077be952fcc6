"""All ways to a source that is no path: what its addresses begin with, how it is fetched, and how a slice is put there.

Nobody else lists them. What goes a way is named here and loaded when it is needed.
"""

from __future__ import annotations

from yardcut.core.formats import mark_of_server
from yardcut.core.quick_dataclasses import dataclass

_HERE, _WRITERS = "yardcut.core.sources.elsewhere", "yardcut.core.writers"
_AFTER = "://"


@dataclass(frozen=True, slots=True)
class Way:
    """One way. A function is named as ``module:function``; "" where there is none.

    ``schemes`` are what addresses begin with, the first of them in what is offered. ``get`` fetches the one file that
    an address is of (:data:`~yardcut.core.sources.elsewhere.ranged_files.Get`); where there is none the address is that
    of a server, a file here that begins with its ``mark`` stands for it, and the format that starts so reads its
    tables. ``ends`` returns what is said of a file there and its first and last bytes, ``part`` opens it to be read in
    ranges; ``meets`` returns the addresses that a pattern there meets.

    ``put`` returns what a slice is written to, given a save line's address, table and whether it replaces; ``takes``
    says in a mend what a save line may name there. ``runs_cuts`` tells a server that carries out a cut where its rows
    are. ``password`` names the option behind ``?`` that is kept out of lists and messages.
    """

    schemes: tuple[str, ...]
    get: str = ""
    ends: str = ""
    part: str = ""
    meets: str = ""
    put: str = ""
    takes: str = ""
    runs_cuts: bool = False
    password: str = ""

    @property
    def is_server(self) -> bool:
        """True when an address is that of tables, and not of a file."""
        return not self.get

    @property
    def mark(self) -> bytes:
        """What the file begins with that stands for a server."""
        return mark_of_server(self.schemes[0])


WAYS: list[Way] = [
    Way(
        ("postgresql", "postgres"), put=f"{_WRITERS}.server_tables:ServerTable", runs_cuts=True, password="password",
        takes="a table: save \"postgresql://host/yard\" table 'oak'",
    ),
    Way(
        ("http", "https"), get=f"{_HERE}.web:get_page", ends=f"{_HERE}.page_ranges:ends_of_page",
        part=f"{_HERE}.page_ranges:page_there",
    ),
    Way(
        ("s3",), get=f"{_HERE}.buckets:get_object", ends=f"{_HERE}.buckets:ends_of_object",
        part=f"{_HERE}.buckets:object_there", meets=f"{_HERE}.bucket_patterns:objects_met",
        put=f"{_WRITERS}.bucket_objects:BucketObject", takes="an object: save \"s3://yard/oak.parquet\"",
    ),
]  # fmt: skip


def scheme_of(text: str) -> str:
    """Return what an address begins with, in small letters; "" where a text is none.

    >>> scheme_of("S3://yard/packs.csv"), scheme_of("yard_2031.csv")
    ('s3', '')
    """
    before, mark, _ = text.partition(_AFTER)
    return before.lower() if mark else ""


def way_of(text: str) -> Way | None:
    """Return the way that an address goes, or nothing where it goes none: a path.

    >>> way_of("postgres://host/yard").is_server, way_of("packs://host")
    (True, None)
    """
    scheme = scheme_of(text)
    return next((way for way in WAYS if scheme in way.schemes), None) if scheme else None
