"""Positions of the pockets: the one source for artwork, guide, picture and ticket."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.model.jig import Jig
from farbe.model.job import Job
from farbe.model.piece import Shape


@dataclass(frozen=True)
class Pocket:
    """A place for one piece: number from 1, grid place from 0, centre in mm from the datum."""

    number: int
    column: int
    row: int
    x: float
    y: float
    on: bool


def pockets(jig: Jig, shape: Shape) -> tuple[Pocket, ...]:
    """All pockets of a grid, numbered along the rows, the row nearest the datum first.

    Each position is computed from its own column and row, so errors do not add up.
    """
    return tuple(
        Pocket(
            number=row * jig.columns + column + 1,
            column=column,
            row=row,
            x=jig.first_x + shape.width / 2 + column * (shape.width + jig.gap_x),
            y=jig.first_y + shape.height / 2 + row * (shape.height + jig.gap_y),
            on=row * jig.columns + column + 1 not in jig.off,
        )
        for row in range(jig.rows)
        for column in range(jig.columns)
    )


def used_pockets(job: Job) -> tuple[Pocket, ...]:
    """The pockets that are switched on."""
    return tuple(p for p in pockets(job.jig, job.piece.shape) if p.on)


def centred_jig(jig: Jig, shape: Shape) -> Jig:
    """The same grid in the middle of its board."""
    width = jig.columns * (shape.width + jig.gap_x) - jig.gap_x
    height = jig.rows * (shape.height + jig.gap_y) - jig.gap_y
    return jig.replace(
        first_x=jig.board.x + (jig.board.width - width) / 2,
        first_y=jig.board.y + (jig.board.height - height) / 2,
    )
