"""Loads of the board: rows of a table, or parts of an artwork, that find no pocket go on next."""

from __future__ import annotations

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.laid import allotted, laid, places
from farbe.layout.lettering import fields
from farbe.layout.pockets import bed_pockets
from farbe.layout.prints import artwork_names
from farbe.layout.tiling import no_parts, parts_of
from farbe.model.base import BadInput
from farbe.model.face import Face
from farbe.model.job import Job
from farbe.said import say, say_count

#: Characters of a job's name that are kept before its load is told.
NAME = 60
_NONE_AGAIN = say("Nothing of what is printed again gets a print; print others again.")


def _used(job: Faced) -> int:
    """How many pockets are on; film is no board."""
    return 0 if job.roll is not None else sum(pocket.on for pocket in bed_pockets(job))


def _rows(job: Faced) -> int:
    """Parts of a face's artwork, or rows of its table, if a text or the artwork asks for them."""
    if job.parts is not None:
        return len(parts_of(job))
    if job.table is None:
        return 0
    asked = {name for box in job.texts for name in fields(box.text)} | {job.artwork_column}
    return len(job.table.rows) if asked & set(job.table.columns) else 0


def _most_rows(job: Job) -> int:
    return max(_rows(Faced(job, number)) for number in range(len(job.faces)))


def count_loads(job: Faced) -> int:
    """How many times the board is filled until all rows or parts are printed.

    Parameters
    ----------
    job : as one of its faces has it
    """
    used = _used(job)
    rows = _most_rows(job.job)
    return max(1, -(-rows // used)) if used else 1


def rows_of_load(job: Faced) -> tuple[int, int]:
    """The first and the last row of the table, or part, from 1, that the job's load prints.

    Parameters
    ----------
    job : as one of its faces has it
    """
    used, rows = _used(job), _rows(job)
    start = job.job.load * used
    return start + 1, min(rows, start + used)


def load_words(job: Faced) -> str:
    """Which load it is, and which rows or parts it prints.

    Parameters
    ----------
    job : as one of its faces has it
    """
    first, last = rows_of_load(job)
    if job.parts is not None:
        before = job.parts.first - 1
        return say(
            "Load {load} of {loads} prints parts {first} to {last}.",
            load=job.job.load + 1,
            loads=count_loads(job),
            first=before + first,
            last=before + last,
        )
    return say(
        "Load {load} of {loads} prints rows {first} to {last}.",
        load=job.job.load + 1,
        loads=count_loads(job),
        first=first,
        last=last,
    )


def why_nothing_prints(job: Faced) -> str:
    """Why no piece gets a print.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    A sentence; empty where one gets a print.

    Raises
    ------
    TypeError
        If nothing carries the job's medium.
    """
    pieces, one, again = laid(job), carrier_of(job), job.job.again is not None
    if any(piece.what is not None for piece in pieces):
        return ""
    if not pieces:
        return _NONE_AGAIN if again and any(place.on for place in places(job)) else one.nothing_lies
    if why := no_parts(job):
        return why
    loads = count_loads(job)
    if job.job.load >= loads:
        return say_count(
            loads,
            "All is on one load now, and load {load} prints nothing; choose another one.",
            "All is on {count} loads now, and load {load} prints nothing; choose another one.",
            load=job.job.load + 1,
        )
    if again and allotted(job).prints:
        return _NONE_AGAIN
    if artwork_names(job) is not None:
        return say("No row of the table names an artwork of the job; add what it names.")
    return one.nothing_prints


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
    rows = _most_rows(whole)
    made = []
    for load in range(loads):
        start = load * used
        faces = tuple(_part(face, start, used) for face in whole.faces)
        spare = frozenset(on[rows - start :])
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
    made = face.replace(serial=serial)
    if face.parts is not None:
        many = used if face.parts.many is None else min(used, face.parts.many - start)
        first = face.parts.first + start
        made = made.replace(parts=face.parts.replace(first=first, many=max(1, many)))
    if face.table is not None:
        rows = face.table.rows[start : start + used]
        made = made.replace(table=face.table.replace(rows=rows))
    return made
