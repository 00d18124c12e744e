"""The queue's folder, and what is read of it."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from farbe.atomic import make_folder
from farbe.model.receiver import Drive
from farbe.queue.base import (
    FIELDS,
    Entry,
    entry_in,
    entry_of,
    members_in,
    prepare_base,
    transaction,
    write_ahead,
)
from farbe.queue.states import OPEN, PAST, State
from farbe.said import say


class Shelf:
    """Entries in a folder: the database, a job file for each, their hand-offs, their owners."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        for name in ("jobs", "files", "owners"):
            make_folder(folder / name)
        write_ahead(folder)
        with transaction(folder) as base:
            prepare_base(base)

    def job_path(self, token: str) -> Path:
        """The job file of an entry.

        Parameters
        ----------
        token : by which the entry's files are known
        """
        return self.folder / "jobs" / f"{token}.farbe"

    def files_path(self, token: str) -> Path:
        """The folder of an entry's hand-off.

        Parameters
        ----------
        token : by which the entry's files are known
        """
        return self.folder / "files" / token

    def lock_path(self, token: str) -> Path:
        """The lock of whoever works on an entry.

        Parameters
        ----------
        token : by which the entry's files are known
        """
        return self.folder / "owners" / f"{token}.lock"

    # reading

    def entries(
        self, states: tuple[State, ...] = OPEN, limit: int = 10_000, lane: str | None = None
    ) -> list[Entry]:
        """Entries in these states: those to be printed in their order, past ones latest first.

        A row with a value that cannot be is set aside; the others are as they were.

        Parameters
        ----------
        states : that are wanted
        limit : how many at the most
        lane : of one printer; None is all
        """
        marks = ", ".join("?" * len(states))
        past = all(state in PAST for state in states)
        order = "ended_order DESC, number DESC" if past else "place, number"
        of = "" if lane is None else " AND lane = ?"
        with transaction(self.folder, writes=False) as base:
            rows = base.execute(
                f"SELECT {FIELDS} FROM entry WHERE state IN ({marks}){of} ORDER BY {order} LIMIT ?",
                (*states, *(() if lane is None else (lane,)), limit),
            ).fetchall()
        found, damaged = [], []
        for row in rows:
            try:
                found.append(entry_of(row))
            except ValueError:
                damaged.append(row[0])
        for number in damaged:
            self._set_aside(number)
        return found

    def _set_aside(self, number: object) -> None:
        """Put a row that cannot be read where it harms none of the others."""
        plain = {
            "state": State.ASIDE, "place": 0.0, "pieces": 0, "seconds": 0.0, "ink_ml": 0.0,
            "price": 0.0, "step": 0, "nest": 0, "drive": Drive.PRESS, "asked": 0, "attempt": 0,
            "awaits": -1, "handed": "", "failed": "", "again_of": 0, "pairs": 0,
            "note": say("Its record was damaged; open its job and add it again, or cancel it."),
        }  # fmt: skip
        sets = ", ".join(f"{name} = ?" for name in plain)
        with transaction(self.folder) as base:
            base.execute(
                f"UPDATE entry SET {sets} WHERE number = ?",
                (*plain.values(), number),
            )

    def entry(self, number: int) -> Entry:
        """An entry by its number; BadInput if there is none.

        Parameters
        ----------
        number : of the entry

        Raises
        ------
        BadInput
            With one sentence that says what is wrong.
        """
        with transaction(self.folder, writes=False) as base:
            return entry_in(base, number)

    def members(self, number: int) -> list[Entry]:
        """The entries that are printed together with one, in the order in which they were added.

        The first of them leads: its token is the nest's.

        Parameters
        ----------
        number : of the entry
        """
        with transaction(self.folder, writes=False) as base:
            return members_in(base, number)

    def next_for(self, lane: str | None, *, by_itself: bool) -> Entry | None:
        """What is to be printed next on a printer that is free.

        Parameters
        ----------
        lane : the printer; None is any
        by_itself : whether what nobody asked for starts, too; not behind one that has stopped

        Returns
        -------
        None if something prints there, or nothing is to be printed.
        """
        found = self.entries(OPEN, lane=lane)
        if any(entry.state is State.PRINTING for entry in found):
            return None
        waiting = [entry for entry in found if entry.state is State.WAITING]
        asked = min((e for e in waiting if e.asked), key=lambda e: e.asked, default=None)
        if asked is not None or not by_itself:
            return asked
        stopped = any(e.state is State.STOPPED and e.drive is Drive.PRESS for e in found)
        return None if stopped else next(iter(waiting), None)

    def next_waiting(self) -> Entry | None:
        """The first that waits, if nothing prints."""
        found = self.entries(OPEN)
        if any(entry.state is State.PRINTING for entry in found):
            return None
        return next((entry for entry in found if entry.state is State.WAITING), None)

    def known_by(self, beginning: str) -> list[Entry]:
        """Entries whose tokens begin so, in the order in which they were added.

        Parameters
        ----------
        beginning : figures, letters and dashes
        """
        with transaction(self.folder, writes=False) as base:
            rows = base.execute(
                f"SELECT {FIELDS} FROM entry WHERE token >= ? AND token < ? ORDER BY number",
                (beginning, beginning + "\uffff"),
            ).fetchall()
        found = []
        for row in rows:
            # A record that is damaged is set aside when the list is read.
            with suppress(ValueError):
                found.append(entry_of(row))
        return found

    def tokens(self) -> frozenset[str]:
        """By what files of entries are known."""
        with transaction(self.folder, writes=False) as base:
            return frozenset(str(row[0]) for row in base.execute("SELECT token FROM entry"))
