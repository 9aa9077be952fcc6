"""A server of the web for a test: the files of a folder, as long as a block lasts."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from http.server import SimpleHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path


class _Quiet(SimpleHTTPRequestHandler):
    def log_message(self, *_: object) -> None:
        pass


@contextmanager
def files_on_the_web(folder: Path) -> Iterator[str]:
    """Serve a folder on this machine; yields its address."""
    with ThreadingHTTPServer(("127.0.0.1", 0), partial(_Quiet, directory=str(folder))) as server:
        server.daemon_threads = True
        threading.Thread(target=server.serve_forever, args=(0.01,), daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}"
        server.shutdown()
