"""A server of the web for a test: the files of a folder, or answers of its own, as long as a block lasts."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import partial
from http.server import BaseHTTPRequestHandler, SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path


class _Quiet(SimpleHTTPRequestHandler):
    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def files_on_the_web(folder: Path) -> Iterator[str]:
    """Serve a folder on this machine; yields its address."""
    with served(partial(_Quiet, directory=str(folder))) as address:
        yield address


@contextmanager
def served(handler: Callable[..., BaseHTTPRequestHandler]) -> Iterator[str]:
    """Have requests on this machine answered; yields the address."""
    with ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()
