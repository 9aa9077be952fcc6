"""Which encoding a delimited file is in, from its first bytes."""

from __future__ import annotations

import codecs
from pathlib import Path

from yardcut.core.errors import Mend, SourceError

_BOMS = (
    (codecs.BOM_UTF8, "utf-8-sig"),
    (codecs.BOM_UTF16_LE, "utf-16"),
    (codecs.BOM_UTF16_BE, "utf-16"),
)
_LEAST_TO_TELL_BY = 40
_LIKE_WINDOWS_1252 = (
    "ascii",
    "latin_1",
    "iso8859_15",
    "cp1250",
    "cp1254",
    "cp1257",
    "cp437",
    "cp850",
    "cp775",
    "mac_roman",
    "hp_roman8",
)
_CONTROLS = bytes(set(range(1, 32)) - set(b"\t\n\f\r\x1b"))
_FEW_CONTROLS = 200
"""Of so many bytes one may be a control in a text that holds zeros; with more of them it is none."""
_FEW_ZEROS = 3
"""Of so many bytes one may be zero in a text."""
_BINARIES = (
    (b"\x89PNG", "a picture (PNG)"), (b"\xff\xd8\xff", "a picture (JPEG)"), (b"GIF8", "a picture (GIF)"),
    (b"II*\0", "a picture (TIFF)"), (b"MM\0*", "a picture (TIFF)"), (b"%PDF-", "a PDF document"),
    (b"\x7fELF", "a program"), (b"MZ\x90\0", "a program"), (b"7z\xbc\xaf\x27\x1c", "a 7z archive"),
    (b"Rar!\x1a", "a rar archive"), (b"\x1f\x9d", "a compressed file (Z)"), (b"ORC\x0a", "an ORC file"),
    (b"ORC\x08", "an ORC file"), (b"Obj\x01", "an Avro file"), (b"\x89HDF", "an HDF5 file"),
    (b"\x80\x04\x95", "a pickle"),
    (b"\x93NUMPY", "an array of numpy"), (b"wOFF", "a font"), (b"OggS", "a sound"), (b"RIFF", "a sound or a film"),
)  # fmt: skip
"""How files begin that are no text."""


_NO_TEXT = frozenset(("idna", "punycode", "undefined", "unicode_escape", "raw_unicode_escape"))
"""Encodings of Python for names and source code: no file is in them."""


def check_encoding(name: str) -> None:
    """Raise ``SourceError`` for a name that is none of an encoding of text."""
    try:
        found = codecs.lookup(name).name.replace("-", "_")
        "a".encode(name)  # refuses what turns bytes into bytes (hex, rot13, zip)
    except (LookupError, ValueError, TypeError, AttributeError):
        found = ""
    if not found or found in _NO_TEXT:
        raise SourceError(f"there is no encoding {name} of text", mend=Mend("write for example 'utf-8' or 'cp1252'"))


def guess_encoding(head: bytes, path: Path) -> str:
    """Guess the encoding: a byte-order mark, else UTF-8 where it fits, else Windows-1252.

    Raises ``SourceError`` for binary files.
    """
    for mark, encoding in _BOMS:
        if head.startswith(mark):
            return encoding
    # a beginning of letters alone may be a text's
    beginnings = [each for each in _BINARIES if not each[0].isalnum() or b"\0" in head]
    looks_like = next((name for start, name in beginnings if head.startswith(start)), "")
    if head[257:262] == b"ustar":
        looks_like = "a tar archive"
    if b"\0" in head and not looks_like:
        unmarked = _unmarked_utf_16(head)
        if unmarked:
            return unmarked
        controls = len(head) - len(head.translate(None, _CONTROLS))
        if controls * _FEW_CONTROLS > len(head) or head.count(0) * _FEW_ZEROS > len(head):
            looks_like = "a binary file"
    if looks_like:
        raise SourceError(
            f"{path} is no text: it looks like {looks_like}",
            mend=Mend("name a file of delimited text, Parquet, Arrow, JSON, SQLite or a workbook"),
        )
    decoder = codecs.getincrementaldecoder("utf-8")()
    try:
        decoder.decode(head)
    except UnicodeDecodeError:
        return _other_encoding(head)
    return "utf-8"


def _unmarked_utf_16(head: bytes) -> str:
    """Return UTF-16 of either order when nearly every second byte is zero, as in Western text without a mark."""
    half = len(head) // 2
    for encoding, zeros in (("utf-16-le", head[1::2].count(0)), ("utf-16-be", head[0::2].count(0))):
        if half > 3 and zeros > 0.8 * half and head.count(0) - zeros < 0.1 * half:
            return encoding
    return ""


def _other_encoding(head: bytes) -> str:
    """Guess an encoding of one byte a character from what reads as language; Windows-1252 where nothing is sure."""
    from charset_normalizer import from_bytes

    # characters of several bytes that fit UTF-8 do not come about by chance: the bytes that do not are mistakes
    valid = head.decode("utf-8", "ignore")
    multibyte = sum(1 for char in valid if ord(char) > 0x7F)
    if multibyte and multibyte >= len(head) - len(valid.encode()):
        return "utf-8"
    if sum(1 for byte in head if byte > 0x7F) < _LEAST_TO_TELL_BY:
        return "cp1252"
    best = from_bytes(head[: 1 << 16]).best()
    found = best.encoding if best is not None else "cp1252"
    return "cp1252" if found in _LIKE_WINDOWS_1252 or found.startswith("utf") else found


def _keep_readable(error: UnicodeError) -> tuple[str, int]:
    assert isinstance(error, UnicodeDecodeError)
    return error.object[error.start : error.end].decode("cp1252", "replace"), error.end


codecs.register_error("yardcut-readable", _keep_readable)
READABLE = "yardcut-readable"
"""A decoding error handler: bytes that are not valid UTF-8 are read as Windows-1252, so nothing is lost."""


def decode_head(head: bytes, encoding: str) -> str:
    """Decode the first bytes of a file, leaving out a character cut in two at the end."""
    errors = READABLE if encoding.startswith("utf-8") else "replace"
    return codecs.getincrementaldecoder(encoding)(errors).decode(head)
