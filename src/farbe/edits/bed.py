"""Edits of the jig, each one step to undo."""

from __future__ import annotations

from collections.abc import Set
from typing import Any

from farbe.edits.document import Editor
from farbe.edits.values import with_jig
from farbe.layout.faced import Faced
from farbe.layout.fill import Filled, fullest
from farbe.layout.guide import guide_reach
from farbe.model.base import BadInput
from farbe.model.face import Face, Turning
from farbe.model.jig import CircleKeepOut, KeepOut, RectangleKeepOut
from farbe.model.job import Job
from farbe.model.piece import Reader
from farbe.model.placing import PocketChange
from farbe.said import say, say_count


def switch_pockets(document: Editor, numbers: Set[int]) -> None:
    """Switch pockets, told by their numbers from 1, off; if all of them are off, switch them on.

    Parameters
    ----------
    document : the job that is worked on
    numbers : of pockets, from 1
    """

    def change(job: Faced) -> Faced:
        off = job.jig.off
        return with_jig(job, off=off - numbers if numbers <= off else off | numbers)

    words = say_count(len(numbers), "pocket {first}", "{count} pockets", first=min(numbers))
    document.edit(say("Switch {words}", words=words), change)


def change_of(job: Faced, pocket: int) -> PocketChange:
    """What is set apart for a pocket (number from 1); nothing, if it prints as all do.

    Parameters
    ----------
    job : as one of its faces has it
    pocket : its number, from 1
    """
    known = next((change for change in job.changes if change.pocket == pocket), None)
    return known or PocketChange(pocket=pocket)


def with_change(job: Faced, pockets: Set[int], **fields: Any) -> Faced:
    """The job with pockets (numbers from 1) set apart; one that differs in nothing is not kept.

    Parameters
    ----------
    job : as one of its faces has it
    pockets : their numbers, from 1
    """
    kept = {change.pocket: change for change in job.changes}
    for pocket in pockets:
        made = change_of(job, pocket).replace(**fields)
        kept.pop(pocket, None)
        if made != PocketChange(pocket=pocket):
            kept[pocket] = made
    return job.replace(changes=tuple(kept[pocket] for pocket in sorted(kept)))


def give_artwork(document: Editor, pockets: Set[int], digest: str) -> None:
    """Print an artwork in these pockets (numbers from 1), whatever the quantities say.

    Parameters
    ----------
    document : the job that is worked on
    pockets : their numbers, from 1
    digest : SHA-256 of the file, as hex digits
    """
    document.edit(say("Artwork of a pocket"), lambda job: with_change(job, pockets, artwork=digest))


def set_apart(document: Editor, pockets: Set[int], like: PocketChange) -> None:
    """Print pockets as another one is printed; artwork that the job lacks is left as it comes.

    Parameters
    ----------
    document : the job that is worked on
    pockets : their numbers, from 1
    like : what is set apart for that one, whatever its number
    """

    def change(job: Faced) -> Faced:
        there = like.artwork in {art.key for art in job.artworks}
        fields = like.model_dump(exclude={"pocket"}) | ({} if there else {"artwork": None})
        return with_change(job, pockets, **fields)

    document.edit(say("Set pockets apart"), change)


def both_sides(job: Faced, both: bool) -> Faced:
    """The job with another side, which begins with the same artwork and layers, or without.

    Parameters
    ----------
    job : as one of its faces has it
    both : whether the other side is printed

    Raises
    ------
    BadInput
        If the piece is not read from its face.
    """
    if not both:
        return job if not job.two_sided else Faced(one_faced(job.job))
    if job.reader is not Reader.FACE:
        raise BadInput(say("A piece that is printed on both sides is read from its faces."))
    if job.two_sided:
        return job
    second = Face(stack=job.stack, artworks=job.artworks, placing=job.placing)
    if job.two_readers:
        raise BadInput(say("A clear piece with two readers is printed on one side."))
    made = job.job.replace(faces=(job.face, second), comes_up=Turning())
    return Faced(made, job.number)


def loaded(job: Faced, turned: bool) -> Faced:
    """The job with its board loaded turned by half a turn, or not.

    Parameters
    ----------
    job : as one of its faces has it
    turned : by half a turn
    """
    return job.replace(medium=job.loaded(turned=turned))


def one_faced(job: Job) -> Job:
    """A job with its first face alone.

    Parameters
    ----------
    job : with one face or two
    """
    return job.replace(faces=job.faces[:1], comes_up=None)


def with_turning(job: Faced, **fields: Any) -> Faced:
    """A two-sided job whose pieces are turned over in another way; others stay.

    Parameters
    ----------
    job : as one of its faces has it
    """
    turning = job.turning
    return job if turning is None else job.replace(comes_up=turning.replace(**fields))


def drag_grid(document: Editor, start: Faced, by: tuple[float, float]) -> None:
    """Move the grid by so many mm from where it was when the drag began.

    Parameters
    ----------
    document : the job that is worked on
    start : the job when the drag began
    by : mm right and up
    """
    x, y = round(start.jig.first_x + by[0], 1), round(start.jig.first_y + by[1], 1)
    document.edit(say("Move the grid"), lambda j: with_jig(j, first_x=x, first_y=y), joins=True)


def nudge_grid(document: Editor, by: tuple[float, float]) -> None:
    """Move the grid by so many mm.

    Parameters
    ----------
    document : the job that is worked on
    by : mm right and up
    """
    document.edit(
        say("Nudge the grid"),
        lambda j: with_jig(
            j, first_x=round(j.jig.first_x + by[0], 3), first_y=round(j.jig.first_y + by[1], 3)
        ),
        joins=True,
    )


def with_keep_out(job: Faced, index: int, **fields: object) -> Faced:
    """The job with one keep-out changed; ``index`` counts from 0.

    Parameters
    ----------
    job : as one of its faces has it
    index : counted from 0
    """
    changed = job.jig.keep_outs[index].replace(**fields)
    kept = (*job.jig.keep_outs[:index], changed, *job.jig.keep_outs[index + 1 :])
    return with_jig(job, keep_outs=kept)


def drag_keep_out(document: Editor, start: Faced, index: int, by: tuple[float, float]) -> None:
    """Move a keep-out by so many mm from where it was when the drag began.

    Parameters
    ----------
    document : the job that is worked on
    start : the job when the drag began
    index : counted from 0
    by : mm right and up
    """
    was = start.jig.keep_outs[index]
    x, y = round(was.x + by[0], 1), round(was.y + by[1], 1)
    document.edit(
        say("Move {was}", was=was.name), lambda j: with_keep_out(j, index, x=x, y=y), joins=True
    )


def add_keep_out(document: Editor, *, circle: bool) -> None:
    """Add a keep-out at the board's corner by the datum, to be dragged where it belongs.

    Parameters
    ----------
    document : the job that is worked on
    circle : a disc rather than a rectangle
    """

    def change(job: Faced) -> Faced:
        board = job.jig.board
        made: KeepOut
        if circle:
            made = CircleKeepOut(x=board.x + 10, y=board.y + 10, diameter=10)
        else:
            made = RectangleKeepOut(x=board.x, y=board.y, width=40, height=30)
        return with_jig(job, keep_outs=(*job.jig.keep_outs, made))

    document.edit(say("Add a keep-out"), change)


def remove_keep_out(document: Editor, index: int) -> None:
    """Take a keep-out away; ``index`` counts from 0.

    Parameters
    ----------
    document : the job that is worked on
    index : counted from 0
    """
    document.edit(
        say("Remove a keep-out"),
        lambda j: with_jig(j, keep_outs=(*j.jig.keep_outs[:index], *j.jig.keep_outs[index + 1 :])),
    )


def fullest_jig(job: Faced) -> Filled:
    """The job's board filled with as many pockets as fit, bleed and guide included.

    Parameters
    ----------
    job : as one of its faces has it
    """
    margin = max(job.bleed, guide_reach(job.guide))
    return fullest(job.jig, job.piece.shape, job.printer, margin)


def fill_board(document: Editor) -> None:
    """As many pockets as fit, upright or turned, square or staggered.

    Parameters
    ----------
    document : the job that is worked on
    """
    document.edit(say("Fill the board"), lambda job: job.replace(jig=fullest_jig(job).jig))
