"""Artwork that is larger than its piece, in parts over the pockets."""

from __future__ import annotations

import math
from dataclasses import dataclass

from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.laid import laid
from farbe.layout.placing import artwork_box, printable
from farbe.model.base import BadInput
from farbe.model.placing import Across, Along, PocketChange
from farbe.said import say


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
        If there is no artwork, or the overlap leaves nothing of a part.
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
    return Tiles(columns, rows, across, along)


def tiled(job: Faced, overlap: float, *, first: int = 1) -> Faced:
    """The job with the artwork's parts over its pockets, row by row from the upper left.

    Parts from number ``first`` on are laid out, as many as there are pockets; pockets beyond the
    last part are switched off.

    Parameters
    ----------
    job : the job as one of its faces has it
    overlap : mm that neighbouring parts share
    first : the first of them, from 1

    Raises
    ------
    BadInput
        See :func:`tiles_of`; or if there is no part of that number.
    """
    plain = job.replace(
        changes=(),
        placing=job.placing.replace(
            across=Across.MIDDLE, along=Along.MIDDLE, offset_x=0.0, offset_y=0.0
        ),
    )
    tiles = tiles_of(plain, overlap)
    if not 1 <= first <= tiles.count:
        raise BadInput(
            say(
                "The artwork has {tiles} parts; there is no part {first}.",
                tiles=tiles.count,
                first=first,
            )
        )
    used = laid(plain)
    parts = range(first - 1, min(tiles.count, first - 1 + len(used)))
    changes = []
    for pocket, part in zip(used, parts, strict=False):
        row, column = divmod(part, tiles.columns)
        # The part in the first column shows the artwork's left: the artwork moves to the right.
        x = ((tiles.columns - 1) / 2 - column) * tiles.across
        y = (row - (tiles.rows - 1) / 2) * tiles.along
        changes.append(
            PocketChange(pocket=pocket.number, offset_x=round(x, 4), offset_y=round(y, 4))
        )
    spare = frozenset(pocket.number for pocket in used[len(parts) :])
    return plain.replace(changes=tuple(changes), jig=plain.jig.replace(off=plain.jig.off | spare))
