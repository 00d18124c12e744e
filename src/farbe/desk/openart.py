"""Where the artwork of open jobs lies: in the user's own cache, which nobody clears meanwhile."""

from __future__ import annotations

import shutil
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from farbe.atomic import make_folder
from farbe.folders import cache_folder
from farbe.owners import owner_of

_LOCK = "window.lock"


@contextmanager
def own_art() -> Iterator[Path]:
    """A folder for the files of a window's jobs, gone when it ends; those of killed ones go, too.

    Raises
    ------
    BadInput
        If it cannot be made.
    """
    every = cache_folder() / "open"
    make_folder(every)
    _clear(every)
    own = every / uuid.uuid4().hex
    make_folder(own)
    owner = owner_of(own / _LOCK)
    try:
        yield own
    finally:
        shutil.rmtree(own, ignore_errors=True)
        if owner is not None:
            owner.let_go()


def _clear(every: Path) -> None:
    """What windows left that are gone; unsaved jobs have their files in copies of their own."""
    for folder in every.iterdir():
        owner = owner_of(folder / _LOCK) if folder.is_dir() else None
        if owner is not None:
            shutil.rmtree(folder, ignore_errors=True)
            owner.let_go()
