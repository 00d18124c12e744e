"""The workers of a Dask cluster (``distributed``), which ships as an extra of the package."""

from __future__ import annotations

import importlib
from pathlib import Path
from typing import Any, cast

from farbe.files.store import ArtStore
from farbe.model.base import BadInput
from farbe.preparing.hands import Lost, Pending
from farbe.preparing.tasks import Lacks, Task, do_task, put_part
from farbe.said import say

#: Bytes of a file that are sent at once.
PIECE = 16 << 20
#: Seconds in which a scheduler is to answer.
ANSWER = "10s"
#: Parts that a worker has at once, so that it never waits for the next.
EACH = 2


def _here() -> str:
    """Where the worker that this runs in keeps files."""
    from distributed import get_worker

    return str(Path(get_worker().local_directory) / "farbe")


def at_worker(task: Task) -> tuple[str, Any]:
    """Do a part at a worker of the cluster.

    Parameters
    ----------
    task : says what

    Returns
    -------
    The worker's address, and what came of it.
    """
    from distributed import get_worker

    return str(get_worker().address), do_task(task, _here())


def put_at_worker(digest: str, start: int, data: bytes, last: bool, *, dask_worker: Any) -> bool:
    """Take a part of a file at a worker of the cluster; see :func:`put_part`.

    Parameters
    ----------
    digest, start, data, last : of the file and its part
    dask_worker : that this runs at, told by Dask
    """
    return put_part(digest, start, data, last, str(Path(dask_worker.local_directory) / "farbe"))


def _has_certificates() -> bool:
    config: Any = importlib.import_module("dask.config")
    return bool(config.get("distributed.comm.tls.ca-file", None))


class Cluster:
    """All workers that a scheduler has, now or later.

    Parameters
    ----------
    address : of the scheduler, as ``tcp://host:8786`` or ``tls://host:8786``
    store : that holds the files

    Raises
    ------
    BadInput
        If ``distributed`` is not installed, or the scheduler does not answer.
    """

    def __init__(self, address: str, store: ArtStore) -> None:
        try:
            distributed: Any = importlib.import_module("distributed")
        except ImportError as error:
            raise BadInput(
                say("For a scheduler the package distributed is needed; install farbe[cluster].")
            ) from error
        if address.startswith("tls:") and not _has_certificates():
            raise BadInput(
                say("For {address} Dask has to be told certificates; see docs/scale.md.",
                    address=address)
            )  # fmt: skip
        try:
            self._client: Any = distributed.Client(
                address, timeout=ANSWER, set_as_default=False, direct_to_workers=False
            )
        except (OSError, ValueError, TimeoutError) as error:
            raise BadInput(
                say("The scheduler {address} does not answer ({error}); start it, or leave it out.",
                    address=address, error=error)
            ) from error  # fmt: skip
        self._store = store

    @property
    def workers(self) -> int:
        """How many workers there are now."""
        return len(self._client.scheduler_info(n_workers=-1)["workers"])

    @property
    def ahead(self) -> int:
        return EACH * max(1, self.workers)

    def give(self, task: Task) -> Pending:
        return _AtCluster(self._client.submit(at_worker, task, pure=False))

    def bring(self, pending: Pending, lacks: Lacks) -> None:
        where = cast("_AtCluster", pending).worker
        for digest in lacks.files:
            path = self._store.path(digest)
            size, start = path.stat().st_size, 0
            with path.open("rb") as file:
                while True:
                    data = file.read(PIECE)
                    last = start + len(data) >= size
                    # One that is gone meanwhile is not asked again; its part goes to another.
                    self._client.run(
                        put_at_worker, digest, start, data, last, workers=[where],
                        on_error="ignore",
                    )  # fmt: skip
                    start += len(data)
                    if last:
                        break

    def close(self) -> None:
        self._client.close()


class _AtCluster:
    def __init__(self, future: Any) -> None:
        self._future = future
        self.worker = ""

    def result(self, seconds: float) -> Any:
        from distributed import CancelledError, KilledWorker
        from distributed.comm.core import CommClosedError

        try:
            self.worker, found = self._future.result(timeout=seconds)
        except (KilledWorker, CancelledError, CommClosedError) as error:
            raise Lost from error
        # What is taken is no longer kept at the worker.
        self._future.release()
        return found

    def drop(self) -> None:
        self._future.cancel()
