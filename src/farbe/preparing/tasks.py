"""Parts of a job's preparation, as a worker does them.

A task names a job and its files by their digests and nothing else, so that it can be done anywhere
and as often as need be; what comes back is the same wherever it is done. A worker that lacks a
file says so, and is sent it.
"""

from __future__ import annotations

import hashlib
import importlib.metadata
import platform
import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from farbe import __version__
from farbe.files.handoff import file_raster
from farbe.files.store import ArtStore, store_at
from farbe.files.writers import WRITERS
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.job import Job
from farbe.survey.prints import look_at

#: Packages on whose versions the bytes of plates depend.
_PACKAGES = ("numpy", "opencv-python-headless", "pillow", "imagecodecs", "isal", "shapely",
             "pypdfium2", "resvg-py", "uharfbuzz", "scipy")  # fmt: skip


@dataclass(frozen=True)
class Task:
    """What every part says.

    Attributes
    ----------
    made_by : what the bytes depend on besides the job; see :func:`made_by`
    job : the job as JSON, by its digest
    files : that the job names, by their digests
    """

    made_by: str
    job: str
    files: tuple[str, ...]

    @property
    def needed(self) -> tuple[str, ...]:
        """All that has to be in the worker's store."""
        return (self.job, *self.files)


@dataclass(frozen=True)
class SurveyTask(Task):
    """Look at one different print of a face."""

    face: int
    number: int


@dataclass(frozen=True)
class StripsTask(Task):
    """Make strips of one file of the hand-off.

    Attributes
    ----------
    run, file, page : numbers of the run, of the file in it, and of the page
    ranges : first rows, and rows after the last
    """

    run: int
    file: int
    page: int
    ranges: tuple[tuple[int, int], ...]


@dataclass(frozen=True)
class Lacks:
    """A worker does not have what a task needs.

    Attributes
    ----------
    files : digests of what it lacks
    differs : what its bytes depend on, if that is not what the task's do
    """

    files: tuple[str, ...] = ()
    differs: str = ""


@lru_cache(maxsize=1)
def made_by() -> str:
    """What the bytes of plates depend on besides the job: versions, and the processor's kind."""
    parts = [f"farbe {__version__} {_own_code()}", platform.machine()]
    parts += [f"{name} {importlib.metadata.version(name)}" for name in _PACKAGES]
    return "; ".join(parts)


def _own_code() -> str:
    """A word for Farbe's own code, which may be newer than its version says."""
    found = hashlib.sha256()
    root = Path(__file__).resolve().parents[1]
    for path in sorted(root.rglob("*.py")):
        found.update(path.relative_to(root).as_posix().encode())
        found.update(path.read_bytes())
    return found.hexdigest()[:12]


def do_task(task: Task, store_folder: str) -> Any:
    """Do a part, in whatever process this is.

    Parameters
    ----------
    task : says what
    store_folder : where the worker keeps files

    Returns
    -------
    A survey, a list with strips for each range, or :class:`Lacks`.
    """
    if task.made_by != made_by():
        return Lacks(differs=made_by())
    _keep_freed()
    store = _store(store_folder)
    lacking = tuple(digest for digest in task.needed if not store.has(digest))
    if lacking:
        return Lacks(lacking)
    # One thread for each task: the pool has as many workers as there are processors.
    return _DOES[type(task)](task, store)


@lru_cache(maxsize=1)
def _keep_freed() -> None:
    # Workers of a cluster are started so that they give all freed memory back, which takes as long
    # as the work itself.
    keep_freed()


def _store(folder: str) -> ArtStore:
    Path(folder).mkdir(mode=0o700, parents=True, exist_ok=True)
    return store_at(Path(folder))


@lru_cache(maxsize=4)
def _job(folder: str, digest: str) -> Job:
    return Job.model_validate_json(_store(folder).path(digest).read_bytes())


@lru_cache(maxsize=4)
def _strip_maker(
    folder: str, digest: str, run: int, file: int, page: int
) -> Callable[[Sequence[tuple[int, int]]], list[Any]]:
    """Kept from part to part, with what it knows of the raster."""
    job = _job(folder, digest)
    raster, form = file_raster(job, _store(folder), run, file, page)
    return WRITERS[form].strips(raster, job.receiver)


def _survey(task: SurveyTask, store: ArtStore) -> object:
    return look_at(Faced(_job(str(store.folder), task.job), task.face), task.number, store)


def _strips(task: StripsTask, store: ArtStore) -> list[Any]:
    make = _strip_maker(str(store.folder), task.job, task.run, task.file, task.page)
    return make(task.ranges)


_DOES: dict[type[Task], Callable[[Any, ArtStore], Any]] = {
    SurveyTask: _survey, StripsTask: _strips,
}  # fmt: skip


def put_part(digest: str, start: int, data: bytes, last: bool, store_folder: str) -> bool:
    """Take a part of a file into a worker's store.

    Parameters
    ----------
    digest : of the whole file
    start : where the part begins
    data : its bytes
    last : whether the file ends with it
    store_folder : where the worker keeps files

    Returns
    -------
    Whether the file is whole; False before the last part, and if it is not what it should be.

    Raises
    ------
    ValueError
        If that is no digest.
    """
    if re.fullmatch("[0-9a-f]{64}", digest) is None:
        raise ValueError(digest)
    store = _store(store_folder)
    if store.has(digest):
        return True
    path = store.path(digest).with_name(f"{digest}.coming")
    with path.open("r+b" if start else "wb") as file:
        file.seek(start)
        file.write(data)
    if not last:
        return False
    with path.open("rb") as file:
        whole = hashlib.file_digest(file, "sha256").hexdigest() == digest
    if whole:
        path.replace(store.path(digest))
    else:
        path.unlink()
    return whole


def split_ranges(
    ranges: Sequence[tuple[int, int]], bytes_a_row: int, most: int
) -> list[tuple[tuple[int, int], ...]]:
    """Ranges of rows in parts of some size, each of neighbours.

    Parameters
    ----------
    ranges : first rows, and rows after the last
    bytes_a_row : of all channels
    most : bytes of a part, where it is more than one range
    """
    parts: list[tuple[tuple[int, int], ...]] = []
    part: list[tuple[int, int]] = []
    size = 0
    for start, stop in ranges:
        own = (stop - start) * bytes_a_row
        if part and size + own > most:
            parts.append(tuple(part))
            part, size = [], 0
        part.append((start, stop))
        size += own
    return [*parts, tuple(part)] if part else parts
