"""The queue: entries in a database that survives a kill at any moment."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterable
from dataclasses import asdict, dataclass
from pathlib import Path
from types import TracebackType
from typing import Any

from farbe.model.base import BadInput
from farbe.model.receiver import Drive
from farbe.owners import Owner, owner_of
from farbe.queue.base import FIELDS as FIELDS
from farbe.queue.base import Entry as Entry
from farbe.queue.base import (
    ending_in,
    entry_in,
    members_in,
    now,
    set_in,
    transaction,
)
from farbe.queue.line import Line
from farbe.queue.states import MOVES
from farbe.queue.states import OPEN as OPEN
from farbe.queue.states import PAST as PAST
from farbe.queue.states import State as State
from farbe.said import say, say_count

#: Why an entry stopped whose program is gone.
ENDED = say("Farbe ended while it printed; go on with it or print it from the start.")


@dataclass(frozen=True)
class Claim:
    """An entry that this program alone works on; used in a ``with`` block.

    What is done with the entry is said to the queue before the block ends; if the program is
    killed, or does not say, the queue finds out that nobody works on it any more.
    """

    entry: Entry
    owner: Owner

    def __enter__(self) -> Claim:
        return self

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        self.owner.let_go()


@dataclass(frozen=True)
class Added:
    """What is known of a job that comes into the queue.

    Attributes
    ----------
    name : what it is called
    token : what its folder is known by
    pieces : how many it prints
    seconds : of time
    ink_ml : millilitres of all inks
    price : in the currency of the preferences
    lane : the printer that it is for
    drive : what that printer's receiver is driven by
    again_of : the entry of which it prints something once more; 0 if none
    pairs : its pieces are film with two sides
    """

    name: str
    token: str
    pieces: int = 0
    seconds: float = 0.0
    ink_ml: float = 0.0
    price: float = 0.0
    lane: str = ""
    drive: Drive = Drive.PRESS
    again_of: int = 0
    pairs: bool = False


class Queue(Line):
    """Entries that are added, moved from state to state, and come to an end.

    Any number of programs and threads may use it at once; each change is one transaction.
    """

    def __init__(self, folder: Path) -> None:
        super().__init__(folder)
        self.recover()

    # adding and removing

    def add(self, name: str, token: str, *, held: bool = False, **known: Any) -> int:
        """Put a job, whose file is in place under its token, at the end; its number.

        Parameters
        ----------
        name : what it is called
        token : what its folder is known by
        held : it waits until it is released
        known : other fields of :class:`Added`
        """
        return self.add_all([Added(name, token, **known)], held=held)[0]

    def add_all(self, added: list[Added], *, held: bool = False) -> list[int]:
        """Put jobs at the end, all of them or none; their numbers.

        Parameters
        ----------
        added : whose files are in place under their tokens
        held : they wait until they are released
        """
        state = State.HELD if held else State.WAITING
        numbers = []
        with transaction(self.folder) as base:
            last = float(base.execute("SELECT COALESCE(MAX(place), 0) FROM entry").fetchone()[0])
            for at, one in enumerate(added, start=1):
                fields = asdict(one) | {"state": state, "place": last + at, "added": now()}
                marks = ", ".join("?" * len(fields))
                made = base.execute(
                    f"INSERT INTO entry ({', '.join(fields)}) VALUES ({marks})",
                    tuple(fields.values()),
                )
                numbers.append(int(made.lastrowid or 0))
        return numbers

    def remove(self, number: int) -> None:
        """Forget an entry that is not printing, and its files.

        Parameters
        ----------
        number : of the entry

        Raises
        ------
        BadInput
            If it is printing.
        """
        found = self.entry(number)
        if found.state is State.PRINTING:
            raise BadInput(
                say(
                    "Job {number}, {name}, is printing; cancel it first.",
                    number=number,
                    name=found.name,
                )
            )
        if found.nest and found.state in (State.WAITING, State.HELD):
            self.take_out(number)
        with transaction(self.folder) as base:
            done = base.execute(
                "DELETE FROM entry WHERE number = ? AND state != ?", (number, State.PRINTING)
            )
        if done.rowcount:
            self._forget_files([found])
            self.job_path(found.token).unlink(missing_ok=True)
            self.lock_path(found.token).unlink(missing_ok=True)

    # changing

    def each(self, numbers: Iterable[int], act: Callable[[int], object]) -> None:
        """Do something with entries, with all that take it.

        Parameters
        ----------
        numbers : of the entries
        act : with each

        Raises
        ------
        BadInput
            After all were tried, if some refused: why the first did, and how many there are.
        """
        refused: list[str] = []
        for number in numbers:
            try:
                act(number)
            except BadInput as error:
                refused.append(str(error))
        if refused:
            more = (
                say(" So do {refused} more.", refused=len(refused) - 1) if len(refused) > 1 else ""
            )
            raise BadInput(refused[0] + more)

    def _move(self, number: int, name: str, *, alone: bool = False, **fields: object) -> None:
        """Take an entry, and its nest, to another state, or refuse."""
        move = MOVES[name]
        with transaction(self.folder) as base:
            found = entry_in(base, number)
            if found.state not in move.since:
                raise BadInput(
                    say(
                        "Job {number}, {name}, is {state}; {refusal}.",
                        number=number,
                        name=found.name,
                        state=found.state.words,
                        refusal=move.refusal,
                    )
                )
            members = [found] if alone else [m for m in members_in(base, number)
                                             if m.state in move.since]  # fmt: skip
            numbers = {found.number, *(m.number for m in members)}
            set_in(base, numbers, state=move.to, **ending_in(base, move.to), **fields)

    def hold(self, number: int) -> None:
        """Keep it, and its nest, from being printed.

        Parameters
        ----------
        number : of the entry
        """
        self._move(number, "hold", asked=0)

    def release(self, number: int) -> None:
        """Let it, and its nest, be printed when its turn comes.

        Parameters
        ----------
        number : of the entry
        """
        self._move(number, "release", note="", ended="")

    def ask(self, number: int) -> None:
        """Print it, and its nest, as soon as its printer is free, behind others asked for.

        Parameters
        ----------
        number : of the entry
        """
        with transaction(self.folder) as base:
            last = base.execute("SELECT COALESCE(MAX(asked), 0) FROM entry").fetchone()[0]
        self._move(number, "ask", asked=int(last) + 1, note="", ended="")

    def cancel(self, number: int) -> None:
        """Never print it, nor what prints with it; who prints it stops its printer.

        Parameters
        ----------
        number : of the entry
        """
        found = self.entry(number)
        if found.nest and found.state in (State.WAITING, State.HELD):
            self.take_out(number)
        # Of those that print with it, who prints them says that they have stopped.
        self._move(number, "cancel", alone=True, asked=0)

    def withdraw(self, number: int) -> None:
        """Never print an entry that nobody has begun.

        Parameters
        ----------
        number : of the entry

        Raises
        ------
        BadInput
            If it is begun; nothing of it changes.
        """
        found = self.entry(number)
        if found.step:
            raise BadInput(
                say("Job {number}, {name}, has begun to print; cancel it there.",
                    number=number, name=found.name)
            )  # fmt: skip
        if found.nest:
            self.take_out(number)
        self._move(number, "withdraw", alone=True, asked=0)

    def begin_anew(self, number: int) -> None:
        """Let its next print begin with the first step, on fresh pieces.

        What it printed before stays with the press as another's; its files are the same.

        Parameters
        ----------
        number : of the entry
        """
        found = self.entry(number)
        self._move(number, "anew", step=0, awaits=-1, attempt=found.attempt + 1, handed="", note="")

    def remark(self, number: int, words: str) -> None:
        """Keep what the operator notes about an entry.

        Parameters
        ----------
        number : of the entry
        words : its first 500 characters are kept
        """
        with transaction(self.folder) as base:
            set_in(base, {entry_in(base, number).number}, remark=" ".join(words.split())[:500])

    # printing

    def begin(self, number: int) -> Claim:
        """Claim an entry, with its nest, for printing.

        Parameters
        ----------
        number : of the entry

        Returns
        -------
        What is to be printed, with the right to print it.

        Raises
        ------
        BadInput
            If it is not to be printed, or another prints on the same printer.
        """
        self.recover()
        lead = self.members(number)[0] if self.entry(number).nest else self.entry(number)
        owner = owner_of(self.lock_path(lead.token))
        if owner is None:
            raise BadInput(
                say(
                    "Job {number}, {name}, is being printed by another Farbe.",
                    number=number,
                    name=lead.name,
                )
            )
        try:
            with transaction(self.folder) as base:
                return Claim(self._begun(base, number), owner)
        except BaseException:
            owner.let_go()
            raise

    def _begun(self, base: sqlite3.Connection, number: int) -> Entry:
        members = members_in(base, number)
        found, numbers = members[0], {m.number for m in members}
        other = base.execute(
            "SELECT name, number FROM entry WHERE state = ? AND lane = ?",
            (State.PRINTING, found.lane),
        ).fetchall()
        busy = next((name for name, one in other if one not in numbers), None)
        if busy is not None:
            raise BadInput(say("{busy} is printing; wait until it is done.", busy=busy))
        move = MOVES["begin"]
        together = (entry_in(base, number), *members)
        refused = next((m for m in together if m.state not in move.since), None)
        if refused is not None:
            raise BadInput(
                say(
                    "Job {number}, {name}, is {state}; {refusal}.",
                    number=number,
                    name=refused.name,
                    state=refused.state.words,
                    refusal=move.refusal,
                )
            )
        set_in(base, numbers, state=move.to, note="")
        # What was cancelled while it printed with these is no more of their board.
        base.execute(
            "UPDATE entry SET nest = 0 WHERE nest != 0 AND nest = ? AND state = ?",
            (found.nest, State.CANCELLED),
        )
        return entry_in(base, found.number)

    def was_prepared(self, number: int) -> None:
        """Its hand-off is written.

        Parameters
        ----------
        number : of the entry
        """
        with transaction(self.folder) as base:
            set_in(base, {number}, prepared=1)

    def is_cancelled(self, number: int) -> bool:
        """Whether it, or one that prints with it, was cancelled while it printed.

        Parameters
        ----------
        number : of the entry
        """
        found = self.entry(number)
        if not found.nest:
            return found.state is State.CANCELLED
        return any(e.nest == found.nest for e in self.entries((State.CANCELLED,)))

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
        with transaction(self.folder) as base:
            together = {m.number for m in members_in(base, number)} | {number}
            set_in(base, together, step=step, awaits=-1)
        if self.is_cancelled(number):
            raise BadInput(say("The job was cancelled while it printed."))

    def finish(self, number: int) -> None:
        """It is printed.

        Parameters
        ----------
        number : of the entry
        """
        self._move(number, "finish", asked=0)

    def stop(self, number: int, why: str, *, awaits: int = -1) -> None:
        """It did not get through; nothing happens to one that does not print.

        Parameters
        ----------
        number : of the entry
        why : a sentence
        awaits : the step that the operator is to do first
        """
        self._out_of_printing(number, state=MOVES["stop"].to, note=why, asked=0, awaits=awaits)

    def give_back(self, number: int, why: str) -> None:
        """It waits again, as it was, for what is not its own fault; it stays asked for.

        Parameters
        ----------
        number : of the entry, which nothing but itself keeps from going on later
        why : a sentence
        """
        self._out_of_printing(number, state=MOVES["give back"].to, note=why)

    def _out_of_printing(self, number: int, **fields: object) -> None:
        with transaction(self.folder) as base:
            together = (entry_in(base, number), *members_in(base, number))
            set_in(base, {m.number for m in together if m.state is State.PRINTING}, **fields)

    # handing over to a folder

    def handing(self, number: int, folder: Path, marker: str, names: tuple[str, ...]) -> None:
        """All is copied beside its place in a folder, and gets its names from now on.

        Parameters
        ----------
        number : of the entry
        folder : that a front end watches
        marker : what the front end puts behind a name when it took it
        names : that it will have there
        """
        with transaction(self.folder) as base:
            set_in(base, {number}, handed="\n".join((str(folder), marker, *names)))

    def handed_over(self, number: int) -> None:
        """It is where the front end finds it.

        Parameters
        ----------
        number : of the entry
        """
        self._move(number, "hand over", asked=0, note="")

    def taken(self, number: int) -> bool:
        """The front end took it, with its nest. All who look at a folder see that: the first says.

        Parameters
        ----------
        number : of the entry; what was cancelled or forgotten meanwhile stays so

        Returns
        -------
        Whether it was there to be taken until now.
        """
        move = MOVES["take"]
        (since,) = move.since
        with transaction(self.folder) as base:
            done = base.execute(
                "UPDATE entry SET state = ? WHERE state = ? AND (number = ? OR nest != 0 "
                "AND nest = (SELECT nest FROM entry WHERE number = ?))",
                (move.to, since, number, number),
            )
        return done.rowcount > 0

    def said_printed(self, number: int, failed: tuple[int, ...] = ()) -> None:
        """The operator says that it is printed, and which of its pieces failed.

        Parameters
        ----------
        number : of the entry
        failed : numbers of pieces, as its guide and its ticket have them
        """
        words = (
            say_count(
                len(failed),
                "{count} failed: {numbers}",
                "{count} failed: {numbers}",
                numbers=", ".join(map(str, failed)),
            )
            if failed
            else ""
        )
        self._move(
            number, "printed", alone=True, failed=" ".join(map(str, failed)), note=words, asked=0
        )

    def said_failed(self, number: int) -> None:
        """The operator says that none of it is any good.

        Parameters
        ----------
        number : of the entry
        """
        self._move(number, "failed", alone=True, note=say("all of it failed"), failed="", asked=0)

    # order and nests

    # what kills and time leave

    def recover(self) -> None:
        """Entries whose program is gone have stopped; a hand-over that was begun goes on.

        A hand-over to a folder can be finished by anybody without doing anything twice; what
        printed is for the operator to look at.
        """
        for entry in self.entries((State.PRINTING,)):
            lead = self.members(entry.number)[0]
            owner = owner_of(self.lock_path(lead.token))
            if owner is None:
                continue
            try:
                # It may have come to its end before its lock was let go.
                if self.entry(entry.number).state is State.PRINTING:
                    if entry.drive is Drive.FOLDER:
                        self._move(entry.number, "give back", note="")
                    else:
                        self._move(entry.number, "stop", note=ENDED, asked=0)
            finally:
                owner.let_go()

    def unprepare(self, number: int) -> None:
        """Its hand-off is no longer there.

        Parameters
        ----------
        number : of the entry
        """
        with transaction(self.folder) as base:
            set_in(base, {number}, prepared=0)
