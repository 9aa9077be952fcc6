"""A service of S3 buckets of a test's own, in this process."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any

import pytest


@contextmanager
def a_bucket(name: str) -> Iterator[Any]:
    """Start the service with one bucket, which the standard places name; give pyarrow's filesystem of it."""
    server = pytest.importorskip("moto.server")
    running = server.ThreadedMotoServer(ip_address="127.0.0.1", port=0)
    running.start()
    host, port = running.get_host_and_port()
    named = {
        "AWS_ENDPOINT_URL": f"http://{host}:{port}", "AWS_ACCESS_KEY_ID": "anna", "AWS_SECRET_ACCESS_KEY": "x",
        "AWS_DEFAULT_REGION": "us-east-1", "AWS_EC2_METADATA_DISABLED": "true",
    }  # fmt: skip
    before = {key: os.environ.get(key) for key in named}
    os.environ.update(named)
    from pyarrow import fs

    files = fs.S3FileSystem(endpoint_override=named["AWS_ENDPOINT_URL"], allow_bucket_creation=True)
    files.create_dir(name)
    yield files
    running.stop()
    for key, value in before.items():
        if value is None:
            os.environ.pop(key)
        else:
            os.environ[key] = value
