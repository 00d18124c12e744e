"""What time and kills leave in the queue's folder, cleared away."""

from __future__ import annotations

import contextlib
import datetime
import shutil
import time

from farbe.model.base import BadInput
from farbe.queue.states import PAST
from farbe.queue.store import Queue
from farbe.said import say

#: Seconds after which files without an entry are what a kill left.
LEFT_OVER = 3600.0
#: Days that hand-offs may be kept: a hundred years.
MOST_DAYS = 36_500


def sweep(queue: Queue, days: float, *, at: datetime.datetime | None = None) -> int:
    """Remove hand-offs of entries that came to their end long ago; their jobs stay.

    Parameters
    ----------
    queue : the shop's jobs
    days : how long hand-offs are kept
    at : the present time

    Returns
    -------
    How many hand-offs were removed.

    Raises
    ------
    BadInput
        If it is no number of days.
    """
    if not 0.0 <= days <= MOST_DAYS:
        raise BadInput(say("Hand-offs are kept for 0 to {most} days.", most=MOST_DAYS))
    limit = (at or datetime.datetime.now()) - datetime.timedelta(days=days)
    ends = limit.isoformat(timespec="milliseconds")
    removed = 0
    for entry in queue.entries(PAST):
        folder = queue.files_path(entry.token)
        if entry.ended and entry.ended < ends and folder.is_dir():
            shutil.rmtree(folder, ignore_errors=True)
            queue.unprepare(entry.number)
            removed += 1
    _clear_left_over(queue)
    return removed


def _clear_left_over(queue: Queue) -> None:
    """Files that belong to no entry: a kill came between them and it."""
    known, long_ago = queue.tokens(), time.time() - LEFT_OVER
    for name in ("jobs", "files", "owners"):
        for path in (queue.folder / name).iterdir():
            # Another window may clear away the same.
            with contextlib.suppress(FileNotFoundError):
                if path.stem in known or path.stat().st_mtime > long_ago:
                    continue
                if path.is_dir():
                    shutil.rmtree(path, ignore_errors=True)
                else:
                    path.unlink()
