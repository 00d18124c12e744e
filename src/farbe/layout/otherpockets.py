"""Pockets of a board that are not for the job's pieces."""

from __future__ import annotations

from dataclasses import dataclass

from shapely import affinity
from shapely.geometry import Polygon

from farbe.layout.faced import Faced
from farbe.layout.pockets import bed_pockets, piece_on_bed


@dataclass(frozen=True)
class OtherPocket:
    """A pocket of another kind.

    Attributes
    ----------
    outline : of the piece that lies there, in mm around its middle, turned as it lies
    x, y : its middle in mm from the bed's near left corner
    kind : of the jig's kinds, from 0
    shown : its number as guide and cutting file say it
    turn : degrees, anticlockwise
    """

    outline: Polygon
    x: float
    y: float
    kind: int
    shown: int
    turn: float


def as_kind(job: Faced, kind: int) -> Faced:
    """The job as if its pieces were those of another kind of the board's pockets.

    Parameters
    ----------
    job : as one of its faces has it
    kind : from 0

    Raises
    ------
    BadInput
        If the jig has no such kind.
    """
    shape = job.jig.kinds[kind].shape
    made = job.job.replace(
        jig=job.jig.replace(kind=kind, off=frozenset(), first_only=None),
        piece=job.job.piece.replace(shape=shape),
    )
    return Faced(made, job.number)


def other_pockets(job: Faced) -> tuple[OtherPocket, ...]:
    """The pockets of all other kinds on a job's board.

    Parameters
    ----------
    job : as one of its faces has it
    """
    found = []
    for kind in range(len(job.jig.kinds)):
        if kind == job.jig.kind:
            continue
        other = as_kind(job, kind)
        straight = piece_on_bed(other)
        found += [
            OtherPocket(
                affinity.rotate(straight, pocket.turn, origin=(0.0, 0.0)), pocket.x, pocket.y,
                kind, pocket.number + job.jig.count_from - 1, pocket.turn,
            )
            for pocket in bed_pockets(other)
        ]  # fmt: skip
    return tuple(found)
