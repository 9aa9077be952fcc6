"""The way to a cluster: two workers of this machine for a try, or a scheduler somewhere, by TLS."""

from __future__ import annotations

import contextlib
import logging
import queue
import sys
import threading
import time
import warnings
from collections.abc import Callable, Iterator
from dataclasses import field
from importlib import metadata
from pathlib import Path
from typing import Any, TypeVar
from urllib.parse import urlsplit

from yardcut.core.errors import ClusterError, Mend
from yardcut.core.quick_dataclasses import dataclass
from yardcut.core.sources.elsewhere.extras import of_extra

LOCAL = "local"
"""The address that stands for two workers started here."""
CERTIFICATE_FILES = ("ca.pem", "cert.pem", "key.pem")
"""What a directory of certificates holds: of who signs, one's own, and the key to it."""
_SAME_AUTHORITY = "ca.pem of both sides is to be that which signed the certificate of the other"
_LOCAL_WORKERS = 2
_LOCAL_SETTINGS = {
    "distributed.nanny.pre-spawn-environ": {"OMP_NUM_THREADS": "1"},
    "distributed.worker.profile.enabled": False,
}
"""By default memory goes back to the system at every turn, to be asked for again."""
_ANSWER_SECONDS, _CLOSE_SECONDS = 20.0, 5.0
_LEFT_BEHIND = "ignore:resource_tracker:UserWarning"
_ALIKE = ("yardcut", "numpy", "pyarrow", "distributed")
_THIS_MACHINE = ("localhost", "127.0.0.1", "::1")

_Result = TypeVar("_Result")


@dataclass(slots=True)
class Cluster:
    """A scheduler that answers: ``client`` is what speaks with it, ``address`` how it is named in sentences."""

    client: Any
    address: str
    size: int = 0
    """How many workers there were at the beginning."""
    is_lost: bool = False
    """Whether it is asked for nothing more."""
    dropped: set[str] = field(default_factory=set)
    """Workers that stopped answering."""
    _heard: dict[str, tuple[float, float]] = field(default_factory=dict)

    def workers(self) -> dict[str, tuple[int, float]]:
        """Return the threads of each worker that answers, and when the scheduler last heard of it.

        Raises ``ClusterError`` where the scheduler says nothing.
        """
        if self.client.status != "running":
            raise gone(self.address)
        said = within(_ANSWER_SECONDS, lambda: self.client.scheduler_info(n_workers=-1), gone(self.address))
        found = {name: (int(each["nthreads"]), float(each["last_seen"])) for name, each in said["workers"].items()}
        return {name: each for name, each in found.items() if name not in self.dropped}

    def silent(self, seconds: float) -> set[str]:
        """Return the workers that the scheduler has not heard of anew for so long, by this machine's clock alone.

        Raises ``ClusterError`` where the scheduler says nothing.
        """
        found, now = self.workers(), time.monotonic()
        known = {name: (seen, now) for name, (_, seen) in found.items()}
        self._heard = {name: self._heard[name] if self._heard.get(name, (None,))[0] == at[0] else at
                       for name, at in known.items()}  # fmt: skip
        return {name for name, (_, since) in self._heard.items() if now - since > seconds}

    def says_something(self) -> bool:
        """Tell whether the way to the scheduler is there."""
        return bool(self.client.status == "running")


def gone(address: str) -> ClusterError:
    """Return what to say of a scheduler that does not answer."""
    return ClusterError(
        f"the scheduler {address} does not answer", mend=Mend("run it again, or without --cluster")
    )  # fmt: skip


@contextlib.contextmanager
def connected(address: str, certificates: Path | None = None) -> Iterator[Cluster]:
    """Yield a cluster whose workers agree with this process on versions; what was started here ends with it.

    Raises ``ClusterError`` for an address nobody answers at, one that anybody could run code at, and workers of other
    versions; ``SourceError`` where the package is not installed.
    """
    distributed = of_extra("distributed", "other processes are given work with it", "cluster")
    _be_quiet()
    with contextlib.ExitStack() as stack, warnings.catch_warnings():
        warnings.simplefilter("ignore")  # what is sent is as large as it must be
        if address == LOCAL:
            try:
                started = stack.enter_context(_local(distributed))
            except (OSError, RuntimeError) as error:
                raise ClusterError(f"no workers could be started here: {_said(error)}") from None
            where, security = started.scheduler_address, started.security
        else:
            where, security = address, _security(distributed, address, certificates)
        try:
            client = distributed.Client(
                where, security=security, timeout=_ANSWER_SECONDS, set_as_default=False,
                direct_to_workers=address == LOCAL,
            )  # fmt: skip
        except (OSError, ValueError, RuntimeError, ImportError) as error:
            said = _said(error)
            help_with = _SAME_AUTHORITY if "certificate" in said else "is it started, and its port open?"
            raise ClusterError(f"no scheduler answers at {address}: {said}", mend=Mend(help_with)) from None
        stack.callback(_close, client)
        cluster = Cluster(client, address)
        _check_alike(cluster)
        yield cluster


@contextlib.contextmanager
def _local(distributed: Any) -> Iterator[Any]:
    """Start workers that nobody else can speak to: by certificates made for them, at addresses of this machine."""
    import dask

    with dask.config.set(_LOCAL_SETTINGS), _quiet_processes():
        cluster = distributed.LocalCluster(
            n_workers=_LOCAL_WORKERS, threads_per_worker=1, processes=True, host="127.0.0.1",
            security=distributed.security.Security.temporary(), dashboard_address=None,
            worker_dashboard_address=None, memory_limit=0, silence_logs=logging.CRITICAL,
        )  # fmt: skip
    try:
        yield cluster
    finally:
        _close(cluster)


def _close(what: Any) -> None:
    """Close a client or a cluster, which may wait for somebody who does not answer."""
    with contextlib.suppress(Exception):
        within(_CLOSE_SECONDS, what.close, TimeoutError())


def _security(distributed: Any, address: str, certificates: Path | None) -> Any:
    """Return the certificates for an address. Raises ``ClusterError`` where anybody could run code there."""
    parts = urlsplit(address)
    if parts.scheme == "tcp" and parts.hostname in _THIS_MACHINE and certificates is None:
        return None
    if parts.scheme != "tls" or not parts.hostname or not parts.port:
        raise ClusterError(
            f"{address} is not the address of a scheduler by TLS",
            mend=Mend(f"say {LOCAL}, or tls://host:8786 and --cluster-tls DIR; without TLS anybody may run code there"),
        )
    if certificates is None:
        raise ClusterError(
            f"{address} needs certificates", mend=Mend(f"--cluster-tls names a directory with {_listed()}")
        )
    paths = [certificates / name for name in CERTIFICATE_FILES]
    absent = [path.name for path in paths if not path.is_file()]
    if absent:
        raise ClusterError(f"{certificates} has no {absent[0]}", mend=Mend(f"it holds {_listed()}"))
    authority, certificate, key = map(str, paths)
    return distributed.security.Security(
        tls_ca_file=authority, tls_client_cert=certificate, tls_client_key=key, require_encryption=True
    )


def _listed() -> str:
    return f"{', '.join(CERTIFICATE_FILES[:-1])} and {CERTIFICATE_FILES[-1]}"


def _check_alike(cluster: Cluster) -> None:
    """Raise ``ClusterError`` where there is no worker, or one of other versions than this process."""
    cluster.size = len(cluster.workers())
    if not cluster.size:
        raise ClusterError(f"{cluster.address} has no workers", mend=Mend("start some: dask worker …"))
    for package in _ALIKE:
        here = metadata.version(package)
        found: dict[str, Any] = within(
            _ANSWER_SECONDS,
            lambda name=package: cluster.client.run(metadata.version, name, on_error="return"),  # type: ignore[misc]
            gone(cluster.address),
        )
        for worker, there in found.items():
            if there != here:
                said = "none" if isinstance(there, Exception) else str(there)
                raise ClusterError(
                    f"the worker {worker} has {package} {said}, and this machine {here}",
                    mend=Mend(f"pip install {package}=={here} there"),
                )


def _said(error: Exception) -> str:
    lines = str(error).strip().splitlines()
    return lines[-1].split(". ")[0] if lines else type(error).__name__


def _be_quiet() -> None:
    """Let the package say nothing on standard error: what matters of it is said by this one."""
    for name in [name for name in logging.root.manager.loggerDict if name.startswith("distributed")]:
        logger = logging.getLogger(name)
        logger.handlers.clear()
        logger.setLevel(logging.CRITICAL)
        logger.addHandler(logging.NullHandler())


@contextlib.contextmanager
def _quiet_processes() -> Iterator[None]:
    """Let processes that are started meanwhile say nothing of what a process left that ended at once."""
    sys.warnoptions.append(_LEFT_BEHIND)
    try:
        yield
    finally:
        sys.warnoptions.remove(_LEFT_BEHIND)


def within(
    seconds: float, call: Callable[[], _Result], late: Exception, meanwhile: Callable[[], None] | None = None
) -> _Result:
    """Return what a call returns, which may hang for ever: then, after so many seconds, ``late`` is raised.

    What is done ``meanwhile``, about once a second, may raise too, and then nobody waits any more.
    """
    answers: queue.SimpleQueue[tuple[bool, Any]] = queue.SimpleQueue()

    def work() -> None:
        try:
            answers.put((True, call()))
        except BaseException as error:  # it is raised where somebody waits for it
            answers.put((False, error))

    threading.Thread(target=work, daemon=True, name="asking a scheduler").start()
    last = time.monotonic() + seconds
    while True:
        try:
            done, found = answers.get(timeout=min(1.0 if meanwhile else seconds, max(0.0, last - time.monotonic())))
        except queue.Empty:
            if time.monotonic() >= last:
                raise late from None
            if meanwhile is not None:
                meanwhile()
            continue
        if done:
            result: _Result = found
            return result
        raise found
