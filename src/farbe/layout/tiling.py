"""Artwork that is larger than its piece, in parts over the pockets."""

from __future__ import annotations

import math
from dataclasses import dataclass

from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.placing import artwork_box, printable
from farbe.model.base import BadInput
from farbe.model.placing import Across, Along, Parts
from farbe.said import say, say_count

#: Parts of an artwork at most: of more, an overlap leaves next to nothing of each.
MANY = 10_000


@dataclass(frozen=True)
class Tiles:
    """How many parts an artwork takes, and how far apart their middles are, in mm."""

    columns: int
    rows: int
    across: float
    along: float

    @property
    def count(self) -> int:
        """Number of tiles."""
        return self.columns * self.rows


def tiles_of(job: Faced, overlap: float) -> Tiles:
    """The parts of the job's first artwork at its present size.

    Parts of one piece each share ``overlap`` mm with their neighbours; they are spread evenly, so
    that the outer ones end with the artwork.

    Parameters
    ----------
    job : the job as one of its faces has it
    overlap : mm that neighbouring parts share

    Raises
    ------
    BadInput
        If there is no artwork, or the overlap leaves nothing of a part, or next to nothing.
    """
    box = artwork_box(job)
    if box is None:
        raise BadInput(say("There is no artwork to lay out in parts; choose one first."))
    room_w, room_h = printable(job)
    if overlap < 0 or overlap >= min(room_w, room_h):
        raise BadInput(
            say(
                "An overlap of {overlap} leaves nothing of a part; make it smaller.",
                overlap=measure(overlap),
            )
        )

    def split(whole: float, room: float) -> tuple[int, float]:
        count = max(1, math.ceil((whole - overlap) / (room - overlap) - 1e-9))
        return count, (whole - room) / (count - 1) if count > 1 else 0.0

    (columns, across), (rows, along) = split(box.width, room_w), split(box.height, room_h)
    if columns * rows > MANY:
        raise BadInput(
            say(
                "The artwork would take {count} parts; make it or the overlap smaller.",
                count=columns * rows,
            )
        )
    return Tiles(columns, rows, across, along)


def parts_of(job: Faced) -> tuple[tuple[float, float], ...]:
    """How far the artwork is moved for each part that a job prints, row by row from upper left.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    mm to the right and up from the piece's middle; nothing where the artwork is in one piece, or
    :func:`no_parts` says why.
    """
    tiles = _tiles_or_why(job)
    if job.parts is None or not isinstance(tiles, Tiles):
        return ()
    start = job.parts.first - 1
    end = tiles.count if job.parts.many is None else min(tiles.count, start + job.parts.many)
    found = []
    for part in range(start, end):
        row, column = divmod(part, tiles.columns)
        # The part in the first column shows the artwork's left: the artwork moves to the right.
        x = ((tiles.columns - 1) / 2 - column) * tiles.across
        y = (row - (tiles.rows - 1) / 2) * tiles.along
        found.append((round(x, 4), round(y, 4)))
    return tuple(found)


def no_parts(job: Faced) -> str:
    """Why nothing is left of an artwork in parts: piece or artwork may have changed since.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    A sentence; empty where there are parts, or the artwork is in one piece.
    """
    found = _tiles_or_why(job)
    return found if isinstance(found, str) else ""


def _tiles_or_why(job: Faced) -> Tiles | str | None:
    """The tiles of an artwork in parts, or why nothing is left of them; None of one piece."""
    if job.parts is None or job.artwork is None:
        return None
    try:
        tiles = tiles_of(centred(job), job.parts.overlap)
    except BadInput as error:
        return str(error)
    if job.parts.first <= tiles.count:
        return tiles
    return say_count(
        tiles.count,
        "The artwork is one part now, and this job prints part {first}; lay it out anew.",
        "The artwork has {count} parts now, and this job prints part {first} and on; "
        "lay it out anew.",
        first=job.parts.first,
    )


def centred(job: Faced) -> Faced:
    """The job with its artwork in the middle of each piece.

    Parameters
    ----------
    job : as one of its faces has it
    """
    placing = job.placing.replace(
        across=Across.MIDDLE, along=Along.MIDDLE, offset_x=0.0, offset_y=0.0
    )
    return job.replace(placing=placing)


def tiled(job: Faced, overlap: float) -> Faced:
    """The job with its artwork's parts over its pockets, row by row from the upper left.

    Parts that find no pocket are printed by the loads that follow.

    Parameters
    ----------
    job : the job as one of its faces has it
    overlap : mm that neighbouring parts share

    Raises
    ------
    BadInput
        See :func:`tiles_of`; or if there are several artworks.
    """
    if len(job.artworks) > 1:
        raise BadInput(say("Only one artwork goes out in parts; remove the others first."))
    plain = centred(job.replace(changes=(), load=0))
    tiles_of(plain, overlap)
    return plain.replace(parts=Parts(overlap=overlap))


def whole_again(job: Faced) -> Faced:
    """The job with its artwork in one piece.

    Parameters
    ----------
    job : as one of its faces has it
    """
    return job.replace(parts=None, load=0)
