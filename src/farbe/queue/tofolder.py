"""An entry handed to a folder that a front end watches; each file gets there once.

Everything is copied beside its place under a name that no front end takes, then the queue keeps
the names that it is to have, and only then it gets them. Whoever goes on after a kill finds what
still has its first name, and gives that its place; what has it no more was handed over.
"""

from __future__ import annotations

import os
import shutil
from pathlib import Path

from farbe.atomic import (
    CannotWrite,
    fsync_folder,
    rename_in_place_of_nothing,
    writing_failed,
)
from farbe.files.ticket import read_ticket
from farbe.model.base import BadInput
from farbe.model.receiver import Delivery, Receiver
from farbe.names import free_name, safe_name
from farbe.queue.states import State
from farbe.queue.store import Entry, Queue
from farbe.render.raster import Report, unwatched
from farbe.said import say, spoken

#: Bytes that are copied between two looks at whether it is still wanted.
CHUNK = 1 << 22


def _first_name(entry: Entry, index: int) -> str:
    return f".farbe-{entry.press_token}-{index}.part"


def hand_to_folder(
    queue: Queue, entry: Entry, folder: Path, receiver: Receiver, report: Report = unwatched
) -> None:
    """Hand an entry that is claimed to its receiver's folder; go on where a kill came between.

    Parameters
    ----------
    queue : that it is an entry of
    entry : as it was claimed
    folder : of its hand-off
    receiver : whose folder it goes to
    report : told the share that is done, 0 to 1

    Raises
    ------
    BadInput
        If nobody said which folder it is.
    CannotWrite
        If the folder is not there or cannot be written to.
    Cancelled
        If ``report`` does; nothing was handed over.
    """
    if not entry.handed:
        target = _folder_of(receiver)
        names = _copied(entry, folder, target, receiver, report)
        queue.handing(entry.number, target, receiver.marker, names)
        entry = queue.entry(entry.number)
    target, names = Path(entry.handed[0]), entry.handed[2:]
    if not target.is_dir():
        raise CannotWrite(_gone(target, spoken(receiver.name)))
    try:
        for index, name in enumerate(names):
            _give_place(target / _first_name(entry, index), target / name)
        fsync_folder(target)
    except FileExistsError as error:
        raise CannotWrite(
            say(
                "{path} lies there already, from another job or program; take it away.",
                path=error.filename,
            )
        ) from error
    except OSError as error:
        raise writing_failed(target / names[0], error) from error
    queue.handed_over(entry.number)


def _give_place(first: Path, last: Path) -> None:
    """Give something that was copied the name that the front end looks for, if it has it not."""
    if first.exists():
        rename_in_place_of_nothing(first, last)


def _gone(target: Path, receiver: str) -> str:
    return say(
        "The folder {target}, which {receiver} watches, is not there; mount or make it.",
        target=target,
        receiver=receiver,
    )


def _folder_of(receiver: Receiver) -> Path:
    if not receiver.folder:
        raise BadInput(
            say(
                "Say at the station Run which folder {receiver} watches.",
                receiver=spoken(receiver.name),
            )
        )
    target = Path(receiver.folder)
    if not target.is_dir():
        raise CannotWrite(_gone(target, spoken(receiver.name)))
    return target


def _copied(
    entry: Entry, folder: Path, target: Path, receiver: Receiver, report: Report
) -> tuple[str, ...]:
    """Everything beside its place; the names that it is to have."""
    ticket = read_ticket(folder)
    own = safe_name(f"{ticket.job} {entry.number}")
    if receiver.delivery is Delivery.FOLDER:
        wanted = [(folder, own)]
    else:
        files = dict.fromkeys(file.name for run in ticket.runs for file in run.files)
        wanted = [(folder / name, safe_name(f"{own} {name}")) for name in files]
    total = max(1, sum(_bytes(source) for source, _ in wanted))
    done = 0
    names: list[str] = []
    try:
        for index, (source, name) in enumerate(wanted):
            first = target / _first_name(entry, index)
            _clear(first)
            done += _copy(source, first, _onwards(report, done, total))
            names.append(free_name(target, name, tuple(names)))
        fsync_folder(target)
    except OSError as error:
        raise writing_failed(target / own, error) from error
    return tuple(names)


def _onwards(report: Report, done: int, total: int) -> Report:
    """Progress in bytes, after so many that are done, as a share of all."""
    return lambda some: report((done + some) / total)


def _bytes(path: Path) -> int:
    if path.is_dir():
        return sum(one.stat().st_size for one in path.rglob("*") if one.is_file())
    return path.stat().st_size


def _clear(path: Path) -> None:
    if path.is_dir():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


def _copy(source: Path, target: Path, report: Report) -> int:
    """Copy a file, or a folder of files, to the disk itself; how many bytes."""
    if source.is_dir():
        target.mkdir()
        done = 0
        for one in sorted(source.iterdir()):
            done += _copy(one, target / one.name, _onwards(report, done, 1))
        fsync_folder(target)
        return done
    done = 0
    with source.open("rb") as reading, target.open("wb") as writing:
        while chunk := reading.read(CHUNK):
            writing.write(chunk)
            done += len(chunk)
            report(done)
        writing.flush()
        os.fsync(writing.fileno())
    return done


def look_at_folders(queue: Queue) -> tuple[int, ...]:
    """See what front ends took of what was handed over.

    Something was taken when all of it is gone from its folder, or when each of its names stands
    there with the front end's marker. A folder that cannot be seen says nothing.

    Parameters
    ----------
    queue : its entries that were handed over

    Returns
    -------
    Numbers of the entries that are seen here first to have been taken.
    """
    found = []
    for entry in queue.entries((State.HANDED,)):
        if not entry.handed:
            # It shares the board of another, which was handed over.
            continue
        target, marker, names = Path(entry.handed[0]), entry.handed[1], entry.handed[2:]
        try:
            there = {path.name for path in target.iterdir()}
        except OSError:
            continue
        gone = not there & set(names)
        marked = bool(marker) and all(name + marker in there for name in names)
        # Others look as well, from other windows: nothing is said of what one of them saw before.
        if (gone or marked) and queue.taken(entry.number):
            found.append(entry.number)
    return tuple(found)


def take_back(entry: Entry) -> bool:
    """Take out of its folder what was handed over, if the front end has taken none of it.

    Parameters
    ----------
    entry : that was handed over

    Returns
    -------
    Whether all of it was still there.

    Raises
    ------
    BadInput
        If it cannot be taken out.
    """
    target, names = Path(entry.handed[0]), entry.handed[2:]
    whole = True
    try:
        for index, name in enumerate(names):
            hidden = target / _first_name(entry, index)
            try:
                (target / name).rename(hidden)
            except FileNotFoundError:
                whole = False
                continue
            _clear(hidden)
    except OSError as error:
        raise writing_failed(target / names[0], error) from error
    return whole
