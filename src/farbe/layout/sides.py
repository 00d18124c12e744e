"""A piece from its other side."""

from __future__ import annotations

from farbe.layout.pockets import piece_on_bed
from farbe.model.job import Job
from farbe.model.piece import Outline, Shape
from farbe.model.side import Back, Print


def mirrored_shape(shape: Shape) -> Shape:
    """A shape with left and right exchanged."""
    if not isinstance(shape, Outline):
        return shape
    rings = tuple(tuple((-x, y) for x, y in ring) for ring in shape.rings)
    return shape.model_copy(update={"rings": rings})


def turned_over(job: Job) -> Job:
    """The job as it is printed on the other side; twice gives the job again.

    What is printed and the back's change places, the outline is mirrored, and the jig says how
    the pieces were turned, from which the positions follow. A job without a back stays.
    """
    back = job.back
    if back is None:
        return job
    front = {name: getattr(job, name) for name in Print.model_fields}
    behind = {name: getattr(back, name) for name in Print.model_fields}
    return job.model_copy(
        update={
            **behind,
            "back": Back(**front, turning=back.turning),
            "piece": job.piece.model_copy(update={"shape": mirrored_shape(job.piece.shape)}),
            "jig": job.jig.model_copy(
                update={"over": back.turning if job.jig.over is None else None}
            ),
        }
    )


def is_other_side(job: Job) -> bool:
    """Whether a job is looked at from its other side."""
    return job.jig.over is not None


def needs_own_guide(job: Job) -> bool:
    """Whether the other side needs pockets of another outline than the first.

    Pieces that are turned in their pockets do, if they are not their own mirror image.
    """
    if job.back is None or job.back.turning.board:
        return False
    one, other = piece_on_bed(job), piece_on_bed(turned_over(job))
    return bool(one.symmetric_difference(other).area > 1e-3 * one.area)
