"""Round bodies along the rollers that turn them."""

from __future__ import annotations

from farbe.layout.body import on_rollers
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.layout.pockets import reaches
from farbe.model.piece import RoundBody


def bodies_on_bed(job: Faced) -> list[tuple[int, float, float]]:
    """Where bodies lie along their rollers: pocket, and both ends in mm on the bed.

    Parameters
    ----------
    job : as one of its faces has it

    Returns
    -------
    From left to right; none of jobs without rollers.
    """
    body = job.piece.shape
    if not isinstance(body, RoundBody) or not on_rollers(job):
        return []
    found = []
    for piece in laid(job):
        jig = job.jig.replace(turned=round(job.jig.turned + piece.turn) % 360 // 90 * 90)
        left, right = reaches(jig, body)
        half = piece.size[0] / 2
        found.append((piece.number, piece.x - half - left, piece.x + half + right))
    return sorted(found, key=lambda one: one[1])
