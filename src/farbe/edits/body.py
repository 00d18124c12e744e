"""Edits of a round body."""

from __future__ import annotations

import math

from farbe.edits.values import with_jig, with_piece
from farbe.layout.faced import Faced
from farbe.layout.pockets import centred_jig
from farbe.model.piece import RoundBody, Unrolled


def as_round_body(job: Faced) -> Faced:
    """The piece as a body that its present width goes around; bodies lie across on rollers.

    Parameters
    ----------
    job : as one of its faces has it
    """
    shape = job.piece.shape
    body = RoundBody(diameter=round(max(20.0, shape.width / math.pi), 1), zone=shape.height)
    made = with_piece(job, shape=body, height=body.head_height)
    return with_jig(made, turned=90, rows=1)


def body_of(job: Faced) -> RoundBody | None:
    """The round body that a job prints on; None for other pieces.

    Parameters
    ----------
    job : as one of its faces has it
    """
    shape = job.piece.shape
    return shape if isinstance(shape, RoundBody) else None


def with_body(job: Faced, **fields: object) -> Faced:
    """The job with other figures of its body; on rollers its height is what the head clears.

    Parameters
    ----------
    job : as one of its faces has it
    """
    body = body_of(job)
    if body is None:
        return job
    made = body.replace(**fields)
    if made.end_diameter == made.diameter:
        made = made.replace(end_diameter=None)
    job = with_piece(job, shape=made)
    if made.unrolled is Unrolled.ROLLERS:
        return with_jig(with_piece(job, height=made.head_height), rows=1, turned=90)
    if body.unrolled is Unrolled.ROLLERS:
        # What is wrapped around is printed flat.
        flat = with_piece(job, height=0.0)
        return flat.replace(jig=centred_jig(flat.jig.replace(turned=0), made))
    return job
