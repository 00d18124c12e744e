"""The queue in a database that survives a kill at any moment."""

from __future__ import annotations

import datetime
import os
import shutil
import sqlite3
import uuid
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from enum import StrEnum
from pathlib import Path

from farbe.files.atomic import make_folder
from farbe.model.base import BadInput

FILE_NAME = "queue.sqlite"


class State(StrEnum):
    """What an entry is doing."""

    HELD = "held"
    WAITING = "waiting"
    PRINTING = "printing"
    STOPPED = "stopped"
    DONE = "done"
    CANCELLED = "cancelled"


#: Entries that are still to be printed, in their order, and those that are past.
OPEN = (State.PRINTING, State.STOPPED, State.WAITING, State.HELD)
PAST = (State.DONE, State.CANCELLED)


@dataclass(frozen=True)
class Entry:
    """One job in the queue.

    Attributes
    ----------
    number : its own, never used again
    place : entries are printed in the order of their places
    step : how many steps of its run list are done
    token : what its hand-off is known by at the press
    note : why it stopped, or what became of it
    nest : the entry whose board it shares; 0 if it is printed by itself
    """

    number: int
    name: str
    state: State
    place: float
    added: str
    ended: str
    pieces: int
    seconds: float
    ink_ml: float
    price: float
    prepared: bool
    step: int
    token: str
    note: str
    nest: int = 0


_FIELDS = (
    "number, name, state, place, added, ended, pieces, seconds, ink_ml, price, prepared, step,"
    " token, note, nest"
)
_TABLE = """
CREATE TABLE IF NOT EXISTS entry (
    number INTEGER PRIMARY KEY AUTOINCREMENT,
    name TEXT NOT NULL,
    state TEXT NOT NULL,
    place REAL NOT NULL,
    added TEXT NOT NULL,
    ended TEXT NOT NULL DEFAULT '',
    pieces INTEGER NOT NULL,
    seconds REAL NOT NULL,
    ink_ml REAL NOT NULL,
    price REAL NOT NULL,
    prepared INTEGER NOT NULL DEFAULT 0,
    step INTEGER NOT NULL DEFAULT 0,
    token TEXT NOT NULL UNIQUE,
    note TEXT NOT NULL DEFAULT '',
    owner INTEGER NOT NULL DEFAULT 0,
    nest INTEGER NOT NULL DEFAULT 0
);
CREATE INDEX IF NOT EXISTS entry_by_state ON entry (state, place);
"""


#: An entry and all that share its board; it takes the entry's number twice.
_TOGETHER = (
    "(number = ? OR nest IN (SELECT nest FROM entry AS one WHERE one.number = ? AND nest != 0))"
)


class Queue:
    """Entries in a folder: the database, a job file for each, their hand-offs.

    Any number of programs and threads may use it at once; each change is one transaction.
    """

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        make_folder(folder / "jobs")
        make_folder(folder / "files")
        with self._open() as base:
            base.execute("PRAGMA journal_mode=WAL")
            base.executescript(_TABLE)
            known = {row[1] for row in base.execute("PRAGMA table_info(entry)")}
            if "nest" not in known:
                # Queues of the first kind knew of no nests.
                base.execute("ALTER TABLE entry ADD COLUMN nest INTEGER NOT NULL DEFAULT 0")
        self._recover()

    @contextmanager
    def _open(self) -> Iterator[sqlite3.Connection]:
        base = sqlite3.connect(self.folder / FILE_NAME, timeout=20.0)
        try:
            base.execute("PRAGMA synchronous=FULL")
            with base:
                yield base
        except sqlite3.DatabaseError as error:
            raise BadInput(
                f"The queue in {self.folder} cannot be used ({error}); move its folder away."
            ) from error
        finally:
            base.close()

    def job_path(self, token: str) -> Path:
        """The job file of an entry."""
        return self.folder / "jobs" / f"{token}.farbe"

    def files_path(self, token: str) -> Path:
        """The folder of an entry's hand-off."""
        return self.folder / "files" / token

    # reading

    def entries(self, states: tuple[State, ...] = OPEN, limit: int = 10_000) -> list[Entry]:
        """Entries in these states: those to be printed in their order, past ones latest first.

        Parameters
        ----------
        states : that are wanted
        limit : how many at the most
        """
        marks = ", ".join("?" * len(states))
        past = all(state in PAST for state in states)
        order = "ended DESC, number DESC" if past else "place, number"
        with self._open() as base:
            rows = base.execute(
                f"SELECT {_FIELDS} FROM entry WHERE state IN ({marks}) ORDER BY {order} LIMIT ?",
                (*states, limit),
            ).fetchall()
        return [_entry(row) for row in rows]

    def entry(self, number: int) -> Entry:
        """An entry by its number; BadInput if there is none."""
        with self._open() as base:
            row = base.execute(
                f"SELECT {_FIELDS} FROM entry WHERE number = ?", (number,)
            ).fetchone()
        if row is None:
            raise BadInput(f"There is no job {number} in the queue.")
        return _entry(row)

    def next_waiting(self) -> Entry | None:
        """What is to be printed next, if nothing prints and nothing stopped before it."""
        found = self.entries(OPEN)
        if any(entry.state is State.PRINTING for entry in found):
            return None
        return next((entry for entry in found if entry.state is State.WAITING), None)

    # changing

    def add(
        self,
        name: str,
        token: str,
        *,
        held: bool = False,
        pieces: int = 0,
        seconds: float = 0.0,
        ink_ml: float = 0.0,
        price: float = 0.0,
    ) -> int:
        """Put a job, whose file is in place under its token, at the end; its number.

        Parameters
        ----------
        name : what it is called
        token : what its folder is known by
        held : it waits until it is released
        pieces : how many it prints
        seconds : of time
        ink_ml : millilitres of all inks
        price : in the currency of the preferences
        """
        state = State.HELD if held else State.WAITING
        with self._open() as base:
            last = base.execute("SELECT COALESCE(MAX(place), 0) FROM entry").fetchone()[0]
            made = base.execute(
                "INSERT INTO entry (name, state, place, added, pieces, seconds, ink_ml, price,"
                " token) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                (name, state, last + 1.0, _now(), pieces, seconds, ink_ml, price, token),
            )
            return int(made.lastrowid or 0)

    def _set(self, number: int, wanted: tuple[State, ...], refusal: str, **fields: object) -> None:
        """Change an entry that is in one of some states, or refuse."""
        sets = ", ".join(f"{name} = ?" for name in fields)
        marks = ", ".join("?" * len(wanted))
        with self._open() as base:
            done = base.execute(
                f"UPDATE entry SET {sets} WHERE number = ? AND state IN ({marks})",
                (*fields.values(), number, *wanted),
            )
        if done.rowcount != 1:
            found = self.entry(number)
            raise BadInput(f"Job {number}, {found.name}, is {found.state.value}; {refusal}.")

    def hold(self, number: int) -> None:
        """Keep it, and its nest, from being printed."""
        for entry in self.members(number):
            self._set(
                entry.number, (State.WAITING, State.STOPPED), "it cannot be held", state=State.HELD
            )

    def release(self, number: int) -> None:
        """Let it, and its nest, be printed when its turn comes."""
        wanted = (State.HELD, State.STOPPED, State.CANCELLED)
        for entry in {e.number: e for e in (self.entry(number), *self.members(number))}:
            self._set(
                entry, wanted, "it cannot be released", state=State.WAITING, note="", ended=""
            )

    def cancel(self, number: int) -> None:
        """Never print it; one that prints is stopped after its step, and its nest with it."""
        found = self.entry(number)
        if found.nest and found.state in (State.WAITING, State.HELD):
            self.take_out(number)
        self._set(
            number, OPEN, "it cannot be cancelled", state=State.CANCELLED, ended=_now(), owner=0
        )

    # nests

    def members(self, number: int) -> list[Entry]:
        """The entries that are printed together with one, in the order in which they were added.

        The first of them leads: its token is the nest's."""
        found = self.entry(number)
        if not found.nest:
            return [found]
        with self._open() as base:
            rows = base.execute(
                f"SELECT {_FIELDS} FROM entry WHERE nest = ? AND state != ? ORDER BY number",
                (found.nest, State.CANCELLED),
            ).fetchall()
        return [_entry(row) for row in rows]

    def nest(self, numbers: list[int]) -> int:
        """Print entries together on one board; the entry that leads.

        Parameters
        ----------
        numbers : of the entries

        Raises
        ------
        BadInput
            If they are not two at least that wait or are held.
        """
        wanted = {m.number for number in numbers for m in self.members(number)}
        found = [self.entry(number) for number in sorted(wanted)]
        if len(found) < 2:
            raise BadInput("Two jobs at least are nested; choose another one.")
        for entry in found:
            self._loose(entry)
        lead = found[0]
        with self._open() as base:
            for entry in found:
                base.execute(
                    "UPDATE entry SET nest = ?, place = ?, state = ?, prepared = 0"
                    " WHERE number = ?",
                    (lead.number, lead.place, lead.state, entry.number),
                )
        self._forget_files(found)
        return lead.number

    def take_out(self, number: int) -> None:
        """Print an entry by itself again; the others of its nest stay together.

        Raises
        ------
        BadInput
            If it is in no nest, or not waiting.
        """
        members = self.members(number)
        found = next(entry for entry in members if entry.number == number)
        if not found.nest:
            raise BadInput(f"Job {number}, {found.name}, is in no nest.")
        self._loose(found)
        rest = [entry for entry in members if entry.number != number]
        lead = rest[0].number if len(rest) > 1 else 0
        with self._open() as base:
            for entry in members:
                nest = 0 if entry.number == number else lead
                base.execute(
                    "UPDATE entry SET nest = ?, prepared = 0 WHERE number = ?",
                    (nest, entry.number),
                )
            # Behind its former neighbours.
            base.execute("UPDATE entry SET place = place + 0.001 WHERE number = ?", (number,))
        self._forget_files(members)

    @staticmethod
    def _loose(entry: Entry) -> None:
        """Refuse entries that cannot change the board they share."""
        if entry.state not in (State.WAITING, State.HELD):
            raise BadInput(
                f"Job {entry.number}, {entry.name}, is {entry.state.value}; only jobs that wait or"
                " are held are nested or taken out."
            )

    def _forget_files(self, entries: list[Entry]) -> None:
        """Hand-offs that no longer hold what is printed together."""
        for entry in entries:
            shutil.rmtree(self.files_path(entry.token), ignore_errors=True)

    def begin(self, number: int) -> Entry:
        """Claim an entry, with its nest, for printing; its leading entry.

        Raises
        ------
        BadInput
            If it is not to be printed or another prints.
        """
        members = self.members(number)
        lead, nest = members[0], members[0].nest
        with self._open() as base:
            base.execute("BEGIN IMMEDIATE")
            other = base.execute(
                "SELECT name FROM entry WHERE state = ? AND number != ?"
                " AND (nest = 0 OR nest != ?)",
                (State.PRINTING, number, nest),
            ).fetchone()
            if other is not None:
                raise BadInput(f"{other[0]} is printing; wait until it is done.")
            done = base.execute(
                "UPDATE entry SET state = ?, owner = ?, note = '' WHERE (number = ? OR"
                " (nest != 0 AND nest = ?)) AND state IN (?, ?, ?)",
                (State.PRINTING, os.getpid(), number, nest, State.WAITING, State.HELD,
                 State.STOPPED),
            )  # fmt: skip
        if done.rowcount < 1:
            found = self.entry(number)
            raise BadInput(
                f"Job {number}, {found.name}, is {found.state.value}; it cannot be printed."
            )
        return self.entry(lead.number)

    def was_prepared(self, number: int) -> None:
        """Its hand-off is written."""
        with self._open() as base:
            base.execute("UPDATE entry SET prepared = 1 WHERE number = ?", (number,))

    def stepped(self, number: int, step: int) -> None:
        """So many steps are done.

        Parameters
        ----------
        number : of the entry
        step : of its run list, from 0

        Raises
        ------
        BadInput
            If it was cancelled meanwhile.
        """
        with self._open() as base:
            base.execute(f"UPDATE entry SET step = ? WHERE {_TOGETHER}", (step, number, number))
        if self.entry(number).state is State.CANCELLED:
            raise BadInput("The job was cancelled while it printed.")

    def finish(self, number: int) -> None:
        """It is printed."""
        for entry in self.members(number):
            self._set(
                entry.number, (State.PRINTING,), "it is not printing",
                state=State.DONE, ended=_now(), owner=0,
            )  # fmt: skip

    def stop(self, number: int, why: str) -> None:
        """It did not get through; nothing happens to one that was cancelled.

        Parameters
        ----------
        number : of the entry
        why : a sentence
        """
        with self._open() as base:
            base.execute(
                f"UPDATE entry SET state = ?, note = ?, owner = 0 WHERE {_TOGETHER} AND state = ?",
                (State.STOPPED, why, number, number, State.PRINTING),
            )

    def move(self, number: int, up: bool) -> None:
        """Put an entry before or behind its neighbour.

        Parameters
        ----------
        number : of the entry
        up : towards the front

        Raises
        ------
        BadInput
            If it is not waiting, or has no neighbour on that side.
        """
        # A nest moves as one, past others as one.
        listed = list({e.nest or -e.number: e for e in self.entries(OPEN)}.values())
        own = self.entry(number)
        key = own.nest or -own.number
        at = next((i for i, e in enumerate(listed) if (e.nest or -e.number) == key), None)
        if at is None:
            raise BadInput(f"Job {number} is not waiting, so it has no place to change.")
        to = at - 1 if up else at + 1
        if not 0 <= to < len(listed):
            return
        with self._open() as base:
            for one, place in ((listed[at], listed[to].place), (listed[to], listed[at].place)):
                base.execute(
                    f"UPDATE entry SET place = ? WHERE {_TOGETHER}", (place, one.number, one.number)
                )

    def remove(self, number: int) -> None:
        """Forget an entry that is not printing, and its files.

        Raises
        ------
        BadInput
            If it is printing.
        """
        found = self.entry(number)
        if found.state is State.PRINTING:
            raise BadInput(f"Job {number}, {found.name}, is printing; cancel it first.")
        if found.nest and found.state in (State.WAITING, State.HELD):
            self.take_out(number)
        with self._open() as base:
            base.execute("DELETE FROM entry WHERE number = ?", (number,))
        self.job_path(found.token).unlink(missing_ok=True)
        shutil.rmtree(self.files_path(found.token), ignore_errors=True)

    def _recover(self) -> None:
        """Entries whose printing program is gone have stopped."""
        with self._open() as base:
            rows = base.execute(
                "SELECT number, owner FROM entry WHERE state = ?", (State.PRINTING,)
            ).fetchall()
        for number, owner in rows:
            if not _lives(owner):
                self.stop(number, "Farbe ended while it printed; go on with it or print it again.")


def new_token() -> str:
    """A name that no other entry has."""
    return uuid.uuid4().hex


def _entry(row: tuple[object, ...]) -> Entry:
    number, name, state, *rest = row
    place, added, ended, pieces, seconds, ink, price, prepared, step, token, note, nest = rest
    return Entry(
        int(str(number)), str(name), State(str(state)), float(str(place)), str(added), str(ended),
        int(str(pieces)), float(str(seconds)), float(str(ink)), float(str(price)),
        str(prepared) == "1", int(str(step)), str(token), str(note), int(str(nest)),
    )  # fmt: skip


def _now() -> str:
    return datetime.datetime.now().isoformat(timespec="milliseconds")


def _lives(process: int) -> bool:
    if process <= 0:
        return False
    try:
        os.kill(process, 0)
    except ProcessLookupError:
        return False
    except PermissionError:
        return True
    return True
