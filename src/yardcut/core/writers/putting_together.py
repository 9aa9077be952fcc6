"""Parts of a file put behind each other while others are still being written, each gone as soon as it stands there.

So hardly a part ever reaches the disk: it is read again a moment after it was written.
"""

from __future__ import annotations

import shutil
import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from typing import IO

from yardcut.core.progress import CancelToken
from yardcut.core.scanning.shared_folders import SharedFolder

_LOOK_SECONDS = 0.05
_COPIED_BYTES = 1 << 24


@contextmanager
def put_together(
    folder: SharedFolder, count: int, target: IO[bytes], token: CancelToken
) -> Iterator[Callable[[], int]]:
    """Give what waits, once all ``count`` parts are written, until they stand in ``target``, and returns their bytes.

    Whoever leaves before has them put together no further. Raises ``OSError``, and ``StoppedError``.
    """
    all_written, is_left = threading.Event(), threading.Event()

    def put() -> int:
        size = 0
        for number in range(count):
            path = folder.file(number)
            while not path.exists() and not is_left.is_set() and not all_written.is_set():
                all_written.wait(_LOOK_SECONDS)
            if is_left.is_set():
                break
            token.check()
            with open(path, "rb") as part:
                shutil.copyfileobj(part, target, _COPIED_BYTES)
                size += part.tell()
            path.unlink()
        return size

    with ThreadPoolExecutor(1, thread_name_prefix="join") as pool:
        putting = pool.submit(put)

        def whole() -> int:
            all_written.set()
            return putting.result()

        try:
            yield whole
        finally:
            is_left.set()
            all_written.set()
