"""Edits of the jig, each one step to undo."""

from __future__ import annotations

from collections.abc import Set
from typing import Any

from farbe.desk.session import Session
from farbe.desk.stations.base import with_jig
from farbe.layout.fill import Filled, fullest
from farbe.layout.guide import guide_reach
from farbe.model.base import BadInput
from farbe.model.jig import CircleKeepOut, KeepOut, RectangleKeepOut
from farbe.model.job import Job
from farbe.model.piece import Reader
from farbe.model.placing import PocketChange
from farbe.model.side import Back


def switch_pockets(session: Session, numbers: Set[int]) -> None:
    """Switch pockets off; if all of them are off, switch them on."""

    def change(job: Job) -> Job:
        off = job.jig.off
        return with_jig(job, off=off - numbers if numbers <= off else off | numbers)

    words = f"pocket {min(numbers)}" if len(numbers) == 1 else f"{len(numbers)} pockets"
    session.edit(f"Switch {words}", change)


def change_of(job: Job, pocket: int) -> PocketChange:
    """What is set apart for a pocket; nothing, if it prints as all do."""
    known = next((change for change in job.changes if change.pocket == pocket), None)
    return known or PocketChange(pocket=pocket)


def with_change(job: Job, pockets: Set[int], **fields: Any) -> Job:
    """The job with pockets set apart; one that differs in nothing is not kept."""
    kept = {change.pocket: change for change in job.changes}
    for pocket in pockets:
        made = change_of(job, pocket).replace(**fields)
        kept.pop(pocket, None)
        if made != PocketChange(pocket=pocket):
            kept[pocket] = made
    return job.replace(changes=tuple(kept[pocket] for pocket in sorted(kept)))


def give_artwork(session: Session, pockets: Set[int], digest: str) -> None:
    """Print an artwork in these pockets, whatever the quantities say."""
    session.edit("Artwork of a pocket", lambda job: with_change(job, pockets, artwork=digest))


def both_sides(job: Job, both: bool) -> Job:
    """The job with another side, which begins with the same artwork and layers, or without.

    Raises
    ------
    BadInput
        If the piece is not read from its face.
    """
    if not both:
        return job.replace(back=None)
    if job.reader is not Reader.FACE:
        raise BadInput("A piece that is printed on both sides is read from its faces.")
    if job.back is not None:
        return job
    return job.replace(back=Back(stack=job.stack, artworks=job.artworks, placing=job.placing))


def drag_grid(session: Session, start: Job, by: tuple[float, float]) -> None:
    """Move the grid by so many mm from where it was when the drag began."""
    x, y = round(start.jig.first_x + by[0], 1), round(start.jig.first_y + by[1], 1)
    session.edit("Move the grid", lambda j: with_jig(j, first_x=x, first_y=y), group="drag grid")


def nudge_grid(session: Session, by: tuple[float, float]) -> None:
    """Move the grid by so many mm."""
    session.edit(
        "Nudge the grid",
        lambda j: with_jig(
            j, first_x=round(j.jig.first_x + by[0], 3), first_y=round(j.jig.first_y + by[1], 3)
        ),
        group="nudge grid",
    )


def with_keep_out(job: Job, index: int, **fields: object) -> Job:
    """The job with one keep-out changed."""
    changed = job.jig.keep_outs[index].replace(**fields)
    kept = (*job.jig.keep_outs[:index], changed, *job.jig.keep_outs[index + 1 :])
    return with_jig(job, keep_outs=kept)


def drag_keep_out(session: Session, start: Job, index: int, by: tuple[float, float]) -> None:
    """Move a keep-out by so many mm from where it was when the drag began."""
    was = start.jig.keep_outs[index]
    x, y = round(was.x + by[0], 1), round(was.y + by[1], 1)
    session.edit(
        f"Move {was.name}", lambda j: with_keep_out(j, index, x=x, y=y), group="drag keep-out"
    )


def add_keep_out(session: Session, *, circle: bool) -> None:
    """Add a keep-out at the board's corner by the datum, to be dragged where it belongs."""

    def change(job: Job) -> Job:
        board = job.jig.board
        made: KeepOut
        if circle:
            made = CircleKeepOut(x=board.x + 10, y=board.y + 10, diameter=10)
        else:
            made = RectangleKeepOut(x=board.x, y=board.y, width=40, height=30)
        return with_jig(job, keep_outs=(*job.jig.keep_outs, made))

    session.edit("Add a keep-out", change)


def remove_keep_out(session: Session, index: int) -> None:
    session.edit(
        "Remove a keep-out",
        lambda j: with_jig(j, keep_outs=(*j.jig.keep_outs[:index], *j.jig.keep_outs[index + 1 :])),
    )


def fullest_jig(job: Job) -> Filled:
    """The job's board filled with as many pockets as fit, bleed and guide included."""
    margin = max(job.bleed, guide_reach(job.guide))
    return fullest(job.jig, job.piece.shape, job.printer, margin)


def fill_board(session: Session) -> None:
    """As many pockets as fit, upright or turned, square or staggered."""
    session.edit("Fill the board", lambda job: job.replace(jig=fullest_jig(job).jig))
