"""A piece from its other side."""

from __future__ import annotations

from farbe.layout.pockets import piece_on_bed
from farbe.layout.rolls import turned_film
from farbe.model.job import Job
from farbe.model.piece import Outline, Reader, Ring, Shape
from farbe.model.roll import Roll
from farbe.model.side import Back, Content, Print, Turn
from farbe.model.treatment import Holes


def mirrored_shape(shape: Shape) -> Shape:
    """A shape with left and right exchanged."""
    if not isinstance(shape, Outline):
        # All others are their own mirror image.
        return shape
    return shape.model_copy(update={"rings": _mirrored(shape.rings)})


def _mirrored(rings: tuple[Ring, ...]) -> tuple[Ring, ...]:
    return tuple(tuple((-x, y) for x, y in ring) for ring in rings)


def turned_over(job: Job) -> Job:
    """The job from its other side; twice gives the job again.

    Of a piece that is printed on both sides, what is printed and the back's change places, the
    outline is mirrored, and the jig says how the pieces were turned, from which the positions
    follow. Of a piece with two readers, it is the job as the other one sees it. Other jobs stay.
    """
    if job.opposite is not None:
        return _by_other_reader(job, job.opposite)
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
            "roll": _turned_roll(job, back.turning.turn),
            "jig": job.jig.model_copy(
                update={"over": back.turning if job.jig.over is None else None}
            ),
        }
    )


def _turned_roll(job: Job, turn: Turn) -> Roll | None:
    """The film after it was turned over, its lead and trail exchanged with its ends."""
    roll = job.roll
    if roll is None:
        return None
    return roll.model_copy(
        update={
            "lain": turned_film(job, roll.lain, turn), "lead": roll.trail, "trail": roll.lead,
        }
    )  # fmt: skip


def _by_other_reader(job: Job, opposite: Content) -> Job:
    """A job with two readers as the other one sees it; the very same is printed."""
    own = {name: getattr(job, name) for name in Content.model_fields}
    other = {name: getattr(opposite, name) for name in Content.model_fields}
    stack = tuple(la.model_copy(update={"opposite": not la.opposite}) for la in job.stack)
    holes = job.see_through
    return job.model_copy(
        update={
            **other,
            "opposite": Content(**own),
            "reader": Reader.FACE if job.reader is Reader.THROUGH else Reader.THROUGH,
            "stack": stack,
            "see_through": None if holes is None else _mirrored_holes(holes),
            "piece": job.piece.model_copy(update={"shape": mirrored_shape(job.piece.shape)}),
        }
    )


def _mirrored_holes(holes: Holes) -> Holes:
    solid = holes.solid
    if solid is not None:
        solid = solid.model_copy(update={"rings": _mirrored(solid.rings)})
    return holes.model_copy(update={"angle": -holes.angle, "solid": solid})


def views(job: Job) -> tuple[Job, ...]:
    """The job from each side that it is told from: one, or two that are printed or read."""
    two = job.back is not None or job.opposite is not None
    return (job, turned_over(job)) if two else (job,)


def is_other_side(job: Job) -> bool:
    """Whether a job is looked at from its other side."""
    return job.jig.over is not None


def needs_own_guide(job: Job) -> bool:
    """Whether the other side needs pockets of another outline than the first.

    Pieces that are turned in their pockets do, if they are not their own mirror image.
    """
    if job.back is None or job.back.turning.board or job.roll is not None:
        return False
    one, other = piece_on_bed(job), piece_on_bed(turned_over(job))
    return bool(one.symmetric_difference(other).area > 1e-3 * one.area)
