"""A second side and its guide."""

from __future__ import annotations

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.pockets import piece_on_bed


def needs_own_guide(job: Faced) -> bool:
    """Whether the second side needs pockets of another outline than the first.

    Pieces that are turned in their pockets do, if they are not their own mirror image.

    Parameters
    ----------
    job : as one of its faces has it
    """
    turning, other = job.turning, job.other
    if turning is None or other is None or turning.board or not carrier_of(job).has_guide:
        return False
    one, two = piece_on_bed(job), piece_on_bed(other)
    return bool(one.symmetric_difference(two).area > 1e-3 * one.area)
