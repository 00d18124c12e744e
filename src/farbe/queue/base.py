"""The queue's database: its table, how it grew, and transactions on it."""

from __future__ import annotations

import datetime
import sqlite3
import uuid
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from farbe.model.base import BadInput
from farbe.model.receiver import Drive
from farbe.queue.states import PAST, State
from farbe.said import say

FILE_NAME = "queue.sqlite"
#: Seconds that a change waits for others on a slow disk.
PATIENCE = 60.0


@dataclass(frozen=True)
class Entry:
    """One job in the queue.

    Attributes
    ----------
    number : its own, never used again
    place : entries are printed in the order of their places
    step : how many steps of its run list are done
    token : what its job file and hand-off are known by
    note : why it stopped, or what became of it
    nest : the entry whose board it shares; 0 if it is printed by itself
    lane : the printer that it waits for
    drive : what that printer's receiver is driven by
    asked : it prints before what was not asked for, in the order of asking; 0 if it was not
    attempt : how often it was begun anew from its first step
    awaits : the step before which the operator is to do something; -1 if none
    remark : what the operator wrote
    handed : where it was handed over: the folder, the marker, then the names in it
    failed : numbers of pieces that failed
    again_of : the entry of which it prints something once more; 0 if none
    pairs : its pieces are film with two sides
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
    lane: str = ""
    drive: Drive = Drive.PRESS
    asked: int = 0
    attempt: int = 0
    awaits: int = -1
    remark: str = ""
    handed: tuple[str, ...] = ()
    failed: tuple[int, ...] = ()
    again_of: int = 0
    pairs: bool = False

    @property
    def press_token(self) -> str:
        """What it is known by at the press; begun anew, it is another."""
        return f"{self.token}-{self.attempt}" if self.attempt else self.token


#: Fields that every queue had, and those that later ones added, as they are in the table.
_FIRST = {
    "number": "INTEGER PRIMARY KEY AUTOINCREMENT",
    "name": "TEXT NOT NULL",
    "state": "TEXT NOT NULL",
    "place": "REAL NOT NULL",
    "added": "TEXT NOT NULL",
    "ended": "TEXT NOT NULL DEFAULT ''",
    "pieces": "INTEGER NOT NULL",
    "seconds": "REAL NOT NULL",
    "ink_ml": "REAL NOT NULL",
    "price": "REAL NOT NULL",
    "prepared": "INTEGER NOT NULL DEFAULT 0",
    "step": "INTEGER NOT NULL DEFAULT 0",
    "token": "TEXT NOT NULL UNIQUE",
    "note": "TEXT NOT NULL DEFAULT ''",
}
_LATER = {
    "nest": "INTEGER NOT NULL DEFAULT 0",
    "lane": "TEXT NOT NULL DEFAULT ''",
    "drive": "TEXT NOT NULL DEFAULT 'press'",
    "asked": "INTEGER NOT NULL DEFAULT 0",
    "attempt": "INTEGER NOT NULL DEFAULT 0",
    "awaits": "INTEGER NOT NULL DEFAULT -1",
    "remark": "TEXT NOT NULL DEFAULT ''",
    "handed": "TEXT NOT NULL DEFAULT ''",
    "failed": "TEXT NOT NULL DEFAULT ''",
    "again_of": "INTEGER NOT NULL DEFAULT 0",
    "pairs": "INTEGER NOT NULL DEFAULT 0",
    # The order in which entries came to an end; clocks may be set back.
    "ended_order": "INTEGER NOT NULL DEFAULT 0",
}
FIELDS = ", ".join((*_FIRST, *(name for name in _LATER if name != "ended_order")))
_TICKS = """
CREATE TABLE IF NOT EXISTS tick (
    job TEXT PRIMARY KEY, steps INTEGER NOT NULL, last INTEGER NOT NULL
)"""


def prepare_base(base: sqlite3.Connection) -> None:
    """Make the table, or add the fields that an earlier Farbe did not know.

    Parameters
    ----------
    base : open, in a transaction
    """
    columns = ", ".join(f"{name} {kind}" for name, kind in (_FIRST | _LATER).items())
    base.execute(f"CREATE TABLE IF NOT EXISTS entry ({columns})")
    base.execute("CREATE INDEX IF NOT EXISTS entry_by_state ON entry (state, place)")
    base.execute(_TICKS)
    known = {row[1] for row in base.execute("PRAGMA table_info(entry)")}
    for name, kind in _LATER.items():
        if name not in known:
            base.execute(f"ALTER TABLE entry ADD COLUMN {name} {kind}")
    if "ended_order" not in known:
        base.execute(
            "UPDATE entry SET ended_order = (SELECT COUNT(*) FROM entry AS e WHERE e.ended != ''"
            " AND (e.ended, e.number) <= (entry.ended, entry.number)) WHERE ended != ''"
        )


def write_ahead(folder: Path) -> None:
    """Have the database keep changes in a log of their own, so that readers never wait.

    Parameters
    ----------
    folder : of the queue

    Raises
    ------
    BadInput
        If it cannot be used.
    """
    try:
        base = sqlite3.connect(folder / FILE_NAME, timeout=PATIENCE, isolation_level=None)
        try:
            base.execute("PRAGMA journal_mode=WAL")
        finally:
            base.close()
    except sqlite3.DatabaseError as error:
        raise _unusable(folder, error) from error


def _unusable(folder: Path, error: sqlite3.DatabaseError) -> BadInput:
    return BadInput(
        say(
            "The queue in {folder} cannot be used ({error}); make room there or mend the "
            "folder, and start Farbe again.",
            folder=folder,
            error=error,
        )
    )


@contextmanager
def transaction(folder: Path, *, writes: bool = True) -> Iterator[sqlite3.Connection]:
    """The queue's database for one transaction: all of it happens, or nothing.

    Parameters
    ----------
    folder : of the queue
    writes : nobody else writes meanwhile, from its beginning on

    Raises
    ------
    BadInput
        If it cannot be used.
    """
    base = sqlite3.connect(folder / FILE_NAME, timeout=PATIENCE, isolation_level=None)
    try:
        base.execute("PRAGMA synchronous=FULL")
        base.execute("BEGIN IMMEDIATE" if writes else "BEGIN")
        try:
            yield base
        except BaseException:
            base.execute("ROLLBACK")
            raise
        base.execute("COMMIT")
    except sqlite3.DatabaseError as error:
        raise _unusable(folder, error) from error
    finally:
        base.close()


def entry_of(row: tuple[object, ...]) -> Entry:
    """An entry from a row of :data:`FIELDS`.

    Parameters
    ----------
    row : of the database

    Raises
    ------
    ValueError
        If a value cannot be.
    """
    (number, name, state, place, added, ended, pieces, seconds, ink, price, prepared, step, token,
     note, nest, lane, drive, asked, attempt, awaits, remark, handed, failed,
     again_of, pairs) = row  # fmt: skip
    return Entry(
        int(str(number)), str(name), State(str(state)), float(str(place)), str(added), str(ended),
        int(str(pieces)), float(str(seconds)), float(str(ink)), float(str(price)),
        str(prepared) == "1", int(str(step)), str(token), str(note), int(str(nest)), str(lane),
        Drive(str(drive)), int(str(asked)), int(str(attempt)), int(str(awaits)), str(remark),
        tuple(str(handed).split("\n")) if handed else (),
        tuple(int(one) for one in str(failed).split()), int(str(again_of)),
        str(pairs) == "1",
    )  # fmt: skip


def now() -> str:
    """The present time, to a millisecond."""
    return datetime.datetime.now().isoformat(timespec="milliseconds")


def entry_in(base: sqlite3.Connection, number: int) -> Entry:
    """An entry by its number; BadInput if there is none, or its record cannot be read.

    Parameters
    ----------
    base : the queue's database, in a transaction
    number : of the entry

    Raises
    ------
    BadInput
        With one sentence that says what is wrong.
    """
    # Larger figures than the database has are no numbers of entries.
    row = (
        base.execute(f"SELECT {FIELDS} FROM entry WHERE number = ?", (number,)).fetchone()
        if 0 < number < 1 << 62
        else None
    )
    if row is None:
        raise BadInput(say("There is no job {number} in the queue.", number=number))
    try:
        return entry_of(row)
    except ValueError as error:
        raise BadInput(
            say("The record of job {number} is damaged; look at the list.", number=number)
        ) from error


def members_in(base: sqlite3.Connection, number: int) -> list[Entry]:
    """The entries that are printed together with one, in the order of their numbers.

    Parameters
    ----------
    base : the queue's database, in a transaction
    number : of the entry
    """
    found = entry_in(base, number)
    if not found.nest:
        return [found]
    rows = base.execute(
        f"SELECT {FIELDS} FROM entry WHERE nest = ? AND state != ? ORDER BY number",
        (found.nest, State.CANCELLED),
    ).fetchall()
    return [entry_of(row) for row in rows]


def set_in(base: sqlite3.Connection, numbers: Iterable[int], **fields: object) -> None:
    """Change fields of entries.

    Parameters
    ----------
    base : the queue's database, in a transaction
    numbers : of entries
    """
    sets = ", ".join(f"{name} = ?" for name in fields)
    for number in numbers:
        base.execute(f"UPDATE entry SET {sets} WHERE number = ?", (*fields.values(), number))


def ending_in(base: sqlite3.Connection, state: State) -> dict[str, object]:
    """The fields of an entry that comes to its end, or leaves it.

    Parameters
    ----------
    base : the queue's database, in a transaction
    state : that it comes to
    """
    if state not in PAST:
        return {}
    last = base.execute("SELECT COALESCE(MAX(ended_order), 0) FROM entry").fetchone()[0]
    return {"ended": now(), "ended_order": int(last) + 1}


def new_token() -> str:
    """A name that no other entry has."""
    return uuid.uuid4().hex
