"""A watched folder: artwork that is dropped there becomes hand-offs, or waits in the queue."""

from __future__ import annotations

import errno
import fcntl
import os
import platform
import time
from collections.abc import Callable, Generator, Iterator
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from farbe.art.read import SUFFIXES
from farbe.atomic import CannotWrite, make_folder, rename_in_place_of_nothing, writing_failed
from farbe.checks.stops import refuse_stopped
from farbe.files.handoff import hand_off_sheets
from farbe.files.store import ArtStore
from farbe.folders import lock_file
from farbe.mishap import guarded
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.names import free_name, safe_name
from farbe.owners import Owner, owner_of
from farbe.queue.store import Queue
from farbe.queue.work import add_job
from farbe.said import say

#: Seconds between two looks, and how many looks in a row a file has not changed when it is whole.
LOOK, QUIET = 1.0, 2
#: Looks after which it is said that a folder is not watched.
TOLD = 2
#: Looks that pass before something is tried again that could not be written.
PATIENCE = 10
#: The folders of a watched folder for what was taken.
DONE, FAILED = "done", "failed"


@dataclass(frozen=True)
class Taken:
    """A file that was worked on, or the folder itself if the name is empty.

    Attributes
    ----------
    name : of the file
    made : what became of it, or why it failed or waits
    failed : it was put aside
    waits : it stays where it is and is tried again
    """

    name: str
    made: str
    failed: bool
    waits: bool = False


@dataclass(frozen=True)
class _Seen:
    """A file's size and time, and for how many looks they were the same."""

    size: int
    changed: int
    quiet: int = 0


def watch(
    folder: Path,
    job_for: Callable[[ArtworkFile], Job],
    use: Callable[[Job, str], str],
    store: ArtStore,
    *,
    wait: Callable[[float], None] = time.sleep,
) -> Generator[Taken | None, None, None]:
    """Look at a folder again and again; None after each look.

    What was taken is moved to ``done`` in it; what failed to ``failed``, with a text that says
    why. Nothing is taken twice or overwritten, nor taken while it is being written. What cannot
    be written for want of room or of a folder waits until it can; so does everything while the
    folder itself is away, or another of the user's programs watches it, which takes what is there.
    Other machines may watch it as well: what one works on lies where the others do not look.

    Parameters
    ----------
    folder : that is watched; it is made if it is not there
    job_for : makes the job of an artwork
    use : does something with the job and the artwork's name; says what
    store : where the artwork goes
    wait : lets so many seconds pass

    Yields
    ------
    What became of each file, and of the folder; None after each look.

    Raises
    ------
    BadInput
        If the folder cannot be made at first.
    """
    make_folder(folder)
    seen: dict[str, _Seen] = {}
    waiting: dict[str, int] = {}
    owner, idle = None, 0
    try:
        while True:
            now, why = _looked(folder, seen), ""
            if now is None:
                why = say("{folder} is away; waiting until it is back.", folder=folder)
            elif owner is None:
                owner, why = _owner_of(folder)
            if now is None or owner is None:
                idle += 1
                # One that just ended here lets it go in a moment.
                if idle == TOLD:
                    yield Taken("", why, False, True)
            else:
                if idle >= TOLD:
                    yield Taken("", say("{folder} is watched from here now.", folder=folder), False)
                idle, seen = 0, now
                waiting = {name: left - 1 for name, left in waiting.items() if name in now}
                yield from _taken_of(
                    now, waiting, lambda name: _take(folder / name, job_for, use, store)
                )
            yield None
            wait(LOOK)
    finally:
        if owner is not None:
            owner.let_go()


def _owner_of(folder: Path) -> tuple[Owner | None, str]:
    """Have a folder to itself, or why that has to wait."""
    try:
        owner = owner_of(lock_file("watched", folder))
    except CannotWrite as error:
        return None, str(error)
    if owner is not None:
        try:
            _give_back_what_was_left(folder)
        except OSError as error:
            owner.let_go()
            return None, str(writing_failed(folder, error))
        return owner, ""
    return None, say(
        "{folder} is watched by another window already, which takes what is there.", folder=folder
    )


def _taken_of(
    now: dict[str, _Seen], waiting: dict[str, int], take: Callable[[str], Taken | None]
) -> Iterator[Taken]:
    """What became of all that is whole; that something waits is said once, however long."""
    for name in sorted(now):
        if now[name].quiet < QUIET or waiting.get(name, 0) > 0:
            continue
        taken = take(name)
        if taken is None:
            continue
        if not (taken.waits and name in waiting):
            yield taken
        if taken.waits:
            waiting[name] = PATIENCE
        else:
            waiting.pop(name, None)


def _looked(folder: Path, before: dict[str, _Seen]) -> dict[str, _Seen] | None:
    """Artwork in a folder; None if the folder cannot be seen."""
    found: dict[str, _Seen] = {}
    try:
        for path in folder.iterdir():
            if path.suffix.lower() not in SUFFIXES or path.name.startswith("."):
                continue
            try:
                state = path.stat()
            except OSError:
                # It went while it was looked at.
                continue
            if not path.is_file():
                continue
            last = before.get(path.name)
            same = last is not None and (last.size, last.changed) == (
                state.st_size, state.st_mtime_ns,
            )  # fmt: skip
            quiet = last.quiet + 1 if same and last is not None else 0
            found[path.name] = _Seen(state.st_size, state.st_mtime_ns, quiet)
    except OSError:
        return None
    return found


def is_being_written(path: Path) -> bool:
    """Whether a program has a file open to write to it, as far as the system tells.

    Parameters
    ----------
    path : of the file
    """
    try:
        handle = os.open(path, os.O_RDONLY | os.O_CLOEXEC | os.O_NONBLOCK)
    except OSError:
        return False
    try:
        # A lease to read is refused while anybody may write.
        fcntl.fcntl(handle, fcntl.F_SETLEASE, fcntl.F_RDLCK)
        fcntl.fcntl(handle, fcntl.F_SETLEASE, fcntl.F_UNLCK)
    except OSError as error:
        # Other errors are of file systems, and of files of others, that know no leases.
        return error.errno in (errno.EAGAIN, errno.EACCES) and _is_own(handle)
    finally:
        os.close(handle)
    return False


def _is_own(handle: int) -> bool:
    return os.fstat(handle).st_uid == os.geteuid() or os.geteuid() == 0


def _take(
    path: Path,
    job_for: Callable[[ArtworkFile], Job],
    use: Callable[[Job, str], str],
    store: ArtStore,
) -> Taken | None:
    """Work on a file; None if it is gone, or not whole yet, or another machine has it."""
    if is_being_written(path) or not path.is_file():
        return None
    try:
        own = _claimed(path)
    except FileNotFoundError:
        return None
    except OSError as error:
        return Taken(path.name, str(writing_failed(path.parent, error)), False, True)

    taken: Taken | None = None
    try:
        taken = _worked_on(own, path, job_for, use, store)
        return taken
    finally:
        # What waits, or was not done to its end, is tried again; at the next start, if not before.
        if taken is None or taken.waits:
            with suppress(OSError):
                _moved(own, path.parent)
        _tidy(own.parent)


def _worked_on(
    own: Path,
    path: Path,
    job_for: Callable[[ArtworkFile], Job],
    use: Callable[[Job, str], str],
    store: ArtStore,
) -> Taken:
    """What became of a file that lies where only this program looks."""

    def work() -> str:
        job = job_for(store.add_artwork(own))
        refuse_stopped(job, store)
        return use(job, safe_name(path.stem))

    try:
        done = guarded(say("Taking {path}", path=path.name), work)
        if done.mishap is not None:
            raise BadInput(done.mishap.sentence)
    except CannotWrite as error:
        return Taken(path.name, str(error), False, True)
    except BadInput as error:
        return _put_aside(own, path, FAILED, str(error))
    return _put_aside(own, path, DONE, done.made or "")


def _own_place(folder: Path) -> Path:
    """Where this user's programs on this machine have what they work on."""
    return folder / safe_name(f"at work, {platform.node()} {os.getuid()}")


def _claimed(path: Path) -> Path:
    """Move a file to where no other program looks; of several that do, one can."""
    place = _own_place(path.parent)
    # The watched folder itself may have gone away, and is not to be made.
    place.mkdir(exist_ok=True)
    return _moved(path, place)


def _moved(path: Path, folder: Path) -> Path:
    """A file, moved to a folder where its name may be taken."""
    target = folder / free_name(folder, path.name)
    rename_in_place_of_nothing(path, target)
    return target


def _give_back_what_was_left(folder: Path) -> None:
    """Put back what a program of this machine worked on when it was killed."""
    place = _own_place(folder)
    if place.is_dir():
        for path in place.iterdir():
            _moved(path, folder)
        _tidy(place)


def _tidy(place: Path) -> None:
    """Take away a place for what is worked on, unless something is there still."""
    with suppress(OSError):
        place.rmdir()


def _put_aside(own: Path, path: Path, where: str, words: str) -> Taken:
    """Move a file that was worked on, beside others of its name; what failed with the reason."""
    folder = path.parent / where
    try:
        folder.mkdir(exist_ok=True)
        target = _moved(own, folder)
        if where == FAILED:
            target.with_name(f"{target.name}.txt").write_text(f"{words}\n", encoding="utf-8")
    except FileNotFoundError:
        # Whoever dropped it took it away again.
        return Taken(path.name, words, where == FAILED)
    except OSError as error:
        reason = error.strerror or say("no reason is known")
        return Taken(
            path.name,
            say(
                "{words} It cannot be moved to {folder} ({reason}); move it away, or it is "
                "taken again when Farbe starts.",
                words=words,
                folder=folder,
                reason=reason,
            ),
            where == FAILED,
        )
    return Taken(path.name, words, where == FAILED)


def to_folder(out: Path, store: ArtStore) -> Callable[[Job, str], str]:
    """Writes a hand-off for each artwork into a folder of its name that nothing else has.

    Parameters
    ----------
    out : where the hand-offs go
    store : where the files are that jobs name

    Returns
    -------
    What a watcher calls with a job and a name; it gives the folder that was written.
    """

    def use(job: Job, name: str) -> str:
        make_folder(out)
        folder = out / free_name(out, name)
        hand_off_sheets(job, store, folder)
        return str(folder)

    return use


def to_queue(queue: Queue, store: ArtStore) -> Callable[[Job, str], str]:
    """Puts the job of each artwork into the queue.

    Parameters
    ----------
    queue : the shop's jobs
    store : where the files are that jobs name

    Returns
    -------
    What a watcher calls with a job and a name; it gives the number in the queue, in words.
    """
    return lambda job, name: say(
        "number {number} in the queue", number=add_job(queue, job.replace(name=name[:80]), store)
    )
