"""A watched folder: artwork that is dropped there becomes hand-offs, or waits in the queue."""

from __future__ import annotations

import os
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from pathlib import Path

from farbe.art.read import SUFFIXES
from farbe.checks.stops import refuse_stopped
from farbe.files.atomic import make_folder
from farbe.files.handoff import hand_off_sheets
from farbe.files.store import ArtStore
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.job import Job

#: Seconds between two looks; a file that did not change between them is whole.
LOOK = 1.0


@dataclass(frozen=True)
class Taken:
    """A file that was worked on: what became of it, or why it failed."""

    name: str
    made: str
    failed: bool


def watch(
    folder: Path,
    job_for: Callable[[ArtworkFile], Job],
    use: Callable[[Job, str], str],
    store: ArtStore,
    *,
    wait: Callable[[float], None] = time.sleep,
) -> Iterator[Taken | None]:
    """Look at a folder again and again; None after each look.

    What was taken is moved to ``done`` in it; what failed to ``failed``, with a text that says
    why. Nothing is taken twice, and nothing that is still being written.

    Parameters
    ----------
    job_for : makes the job of an artwork
    use : does something with the job and the artwork's name; says what
    """
    make_folder(folder / "done")
    make_folder(folder / "failed")
    before: dict[str, tuple[int, int]] = {}
    while True:
        now = _seen(folder)
        for name in sorted(name for name, stamp in now.items() if before.get(name) == stamp):
            yield _take(folder / name, job_for, use, store)
        before = now
        yield None
        wait(LOOK)


def _seen(folder: Path) -> dict[str, tuple[int, int]]:
    """Artwork in a folder with its size and time."""
    found = {}
    for path in folder.iterdir():
        if path.suffix.lower() in SUFFIXES and path.is_file():
            state = path.stat()
            found[path.name] = (state.st_size, state.st_mtime_ns)
    return found


def _take(
    path: Path,
    job_for: Callable[[ArtworkFile], Job],
    use: Callable[[Job, str], str],
    store: ArtStore,
) -> Taken:
    try:
        job = job_for(store.add_artwork(path))
        refuse_stopped(job, store)
        made = use(job, path.stem)
    except BadInput as error:
        os.replace(path, path.parent / "failed" / path.name)
        (path.parent / "failed" / f"{path.name}.txt").write_text(f"{error}\n", encoding="utf-8")
        return Taken(path.name, str(error), True)
    os.replace(path, path.parent / "done" / path.name)
    return Taken(path.name, made, False)


def to_folder(out: Path, store: ArtStore) -> Callable[[Job, str], str]:
    """Writes a hand-off for each artwork into a folder of its name."""

    def use(job: Job, name: str) -> str:
        hand_off_sheets(job, store, out / name)
        return str(out / name)

    return use
