"""S3 buckets, by pyarrow's filesystem, and the objects of them that a pattern meets.

Credentials, region and endpoint come from the standard places.
"""

from __future__ import annotations

import fnmatch
import os
from typing import Any
from urllib.parse import unquote

from yardcut.core.errors import Mend, SourceError
from yardcut.core.sources.elsewhere.addresses import WILDCARDS

_CONNECT_SECONDS, _ANSWER_SECONDS = 10, 30


def objects_met(address: str) -> tuple[str, ...]:
    """Return the addresses of the objects that a pattern in a bucket meets, by name.

    Raises ``SourceError``, where it meets none too.
    """
    from pyarrow import fs

    pattern = address.split("://", 1)[1]
    fixed = pattern[: min(pattern.index(mark) for mark in WILDCARDS if mark in pattern)]
    folder = fixed.rpartition("/")[0]
    if not folder:
        raise SourceError(f"{address} names no bucket", mend=Mend("write s3://bucket/folder/*.parquet"))
    is_deep = "/" in pattern[len(folder) + 1 :]
    try:
        infos = bucket().get_file_info(fs.FileSelector(unquote(folder), recursive=is_deep))
    except OSError as error:
        raise bucket_refused(address, error) from error
    depth = pattern.count("/")
    found = sorted(
        info.path
        for info in infos
        if info.is_file and info.path.count("/") == depth and fnmatch.fnmatchcase(info.path, pattern)
    )
    if not found:
        raise SourceError(f"nothing in the bucket matches {address}", mend=Mend("check the pattern"))
    return tuple(f"s3://{path}" for path in found)


def bucket() -> Any:
    """Return the filesystem of all buckets."""
    from pyarrow import fs

    endpoint = os.environ.get("AWS_ENDPOINT_URL_S3") or os.environ.get("AWS_ENDPOINT_URL")
    named = {"endpoint_override": endpoint} if endpoint else {}
    return fs.S3FileSystem(connect_timeout=_CONNECT_SECONDS, request_timeout=_ANSWER_SECONDS, **named)


def bucket_refused(address: str, error: OSError) -> SourceError:
    """Return what to say of an error of a bucket or of the way there."""
    said = (str(error).splitlines() or ["it cannot be read"])[0][:300]
    mend = None
    if isinstance(error, FileNotFoundError) or "NO_SUCH" in said.upper():
        said, mend = "there is no such object", Mend("check the bucket and the key")
    elif "ACCESS_DENIED" in said.upper() or "credentials" in said.lower():
        mend = Mend("credentials come from the environment, ~/.aws, or the machine's role")
    return SourceError(f"{address}: {said}", mend=mend)
