"""Loads of the board: a table with more rows than pockets goes on in the next one."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.layout.lettering import fields
from farbe.layout.pockets import bed_pockets
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.job import Job
from farbe.said import say

#: Characters of a job's name that are kept before its load is told.
NAME = 60


def _used(job: Faced) -> int:
    """How many pockets are on; film is no board."""
    return 0 if job.roll is not None else sum(pocket.on for pocket in bed_pockets(job))


def _rows(job: Faced) -> int:
    """Rows of a face's table, if a text or the artwork asks for its columns."""
    if job.table is None:
        return 0
    asked = {name for box in job.texts for name in fields(box.text)} | {job.artwork_column}
    return len(job.table.rows) if asked & set(job.table.columns) else 0


def count_loads(job: Faced) -> int:
    """How many times the board is filled until all rows are printed.

    Parameters
    ----------
    job : as one of its faces has it
    """
    used = _used(job)
    faces = (Faced(job.job, number) for number in range(len(job.job.faces)))
    rows = max(map(_rows, faces), default=0)
    return max(1, -(-rows // used)) if used else 1


def rows_of_load(job: Faced) -> tuple[int, int]:
    """The first and the last row, from 1, of the table that the job's load prints.

    Parameters
    ----------
    job : as one of its faces has it
    """
    used, rows = _used(job), _rows(job)
    start = job.job.load * used
    return start + 1, min(rows, start + used)


def load_words(job: Faced) -> str:
    """Which load it is, and which rows it prints.

    Parameters
    ----------
    job : as one of its faces has it
    """
    first, last = rows_of_load(job)
    return say(
        "Load {load} of {loads} prints rows {first} to {last}.",
        load=job.job.load + 1,
        loads=count_loads(job),
        first=first,
        last=last,
    )


def with_load(job: Faced, load: int) -> Faced:
    """The job with another load on its board.

    Parameters
    ----------
    job : as one of its faces has it
    load : from 0

    Raises
    ------
    BadInput
        If there is no such load.
    """
    loads = count_loads(job)
    if not 0 <= load < loads:
        raise BadInput(say("There are loads 1 to {loads}.", loads=loads))
    return job.replace(load=load)


def loads_of(job: Faced) -> tuple[Job, ...]:
    """Each load as a job of its own, with its rows alone; the last one's spare pockets are off.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    In the order of the rows; the job itself if it is one load.
    """
    whole, used, loads = job.job, _used(job), count_loads(job)
    if loads == 1:
        return (whole,)
    on = [pocket.number for pocket in bed_pockets(job.first) if pocket.on]
    made = []
    for load in range(loads):
        start = load * used
        faces = tuple(_part(face, start, used) for face in whole.faces)
        longest = max(len(f.table.rows) if f.table is not None else 0 for f in faces)
        spare = frozenset(on[longest:])
        made.append(
            whole.replace(
                name=f"{whole.name[:NAME]} {load + 1}/{loads}", faces=faces, load=0,
                jig=whole.jig.replace(off=whole.jig.off | spare),
            )
        )  # fmt: skip
    return tuple(made)


def _part(face: Face, start: int, used: int) -> Face:
    """A face with the rows of one load, and the serial numbers that go with them."""
    serial = face.serial.replace(start=max(0, face.serial.start + start * face.serial.step))
    if face.table is None:
        return face.replace(serial=serial)
    rows = face.table.rows[start : start + used]
    return face.replace(serial=serial, table=face.table.replace(rows=rows))
