"""How much of a piece is open to see through."""

from __future__ import annotations

import math

from shapely.geometry import Polygon

from farbe.layout.faced import Faced
from farbe.layout.outline import outline
from farbe.model.source import Region
from farbe.model.treatment import Holes, HoleShape


def hole_share(holes: Holes) -> float:
    """Share of the plane that a pattern leaves open: a hole's area by that of its cell.

    Parameters
    ----------
    holes : pattern and sizes in mm
    """
    half = holes.size / 2
    hole = {
        HoleShape.ROUND: math.pi * half**2,
        HoleShape.SQUARE: 4 * half**2,
        HoleShape.HEXAGON: 2 * math.sqrt(3) * half**2,
    }[holes.shape]
    cell = holes.spacing**2 * (math.sqrt(3) / 2 if holes.staggered else 1.0)
    return min(1.0, hole / cell)


def open_share(job: Faced) -> float:
    """Share of the piece's area that its holes leave open, 0 to 1; drawn solid parts count.

    Parameters
    ----------
    job : the job as one of its faces has it
    """
    holes = job.see_through
    if holes is None:
        return 0.0
    piece = outline(job.piece.shape)
    left = piece
    for ring in holes.solid.rings if isinstance(holes.solid, Region) else ():
        left = left.difference(Polygon(ring).buffer(0))
    return hole_share(holes) * float(left.area / piece.area)
