"""How far layers may be off each other on a bed."""

from __future__ import annotations

import math
from functools import lru_cache

from farbe.layout.faced import Faced
from farbe.layout.laid import laid


@lru_cache(maxsize=16)
def extent(*jobs: Faced) -> tuple[float, float]:
    """Width and height in mm from the first pocket's edge to the last one's, of all jobs.

    Parameters
    ----------
    jobs : those that share the bed

    Returns
    -------
    Width and height in mm; 0 without pieces.
    """
    xs, ys = list[float](), list[float]()
    for job in jobs:
        for piece in laid(job):
            width, height = piece.size
            xs += (piece.x - width / 2, piece.x + width / 2)
            ys += (piece.y - height / 2, piece.y + height / 2)
    return (max(xs) - min(xs), max(ys) - min(ys)) if xs else (0.0, 0.0)


def register_of(job: Faced, *, apart: bool) -> float:
    """How far two layers may be off in mm, at the worst place of the bed.

    In one run they share the bed's turn and stretch, so only the shift is left. Separate runs
    each come back to the datum: their turn and stretch grow with the length from it.

    Parameters
    ----------
    job : whose printer's misregister is meant
    apart : each layer in a run of its own

    Returns
    -------
    Millimetres.
    """
    off = job.machine.misregister
    shift = math.hypot(off.x, off.y)
    if not apart:
        return shift
    far = math.hypot(*extent(job))
    return shift + far * (math.radians(off.rotation) + off.scale / 100.0)
