"""The ticket of a hand-off from its jobs and the runs that were written."""

from __future__ import annotations

from shapely.geometry import Polygon

from farbe.files.placed import STRIP_FILE
from farbe.files.ticket import (
    Ticket,
    TicketBack,
    TicketBoard,
    TicketGarment,
    TicketLine,
    TicketPiece,
    TicketPocket,
    TicketRun,
    TicketStrip,
)
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.frame import printer_frame
from farbe.layout.laid import laid
from farbe.layout.lengths import STRIP_LINE
from farbe.layout.outline import corners
from farbe.layout.rolls import line_places
from farbe.layout.strip import laid_strips
from farbe.render.marks import LINE_LENGTH


def ticket_of(jobs: tuple[Faced, ...], runs: tuple[TicketRun, ...]) -> Ticket:
    """The ticket of one job, or of several that share the bed.

    Parameters
    ----------
    jobs : that lie on one bed, at least one
    runs : of the job, in order
    """
    job = jobs[0]
    frame = printer_frame(job)
    pieces, pockets = _pieces(jobs)
    return Ticket(
        job=" + ".join(one.name for one in jobs),
        order=", ".join(dict.fromkeys(one.job.order for one in jobs if one.job.order)),
        printer=job.printer.name,
        medium=carrier_of(job).word,
        bed_width=frame.width,
        bed_height=frame.height,
        board=_board(jobs),
        pieces=pieces,
        pockets=pockets,
        runs=runs,
        lines=tuple(
            TicketLine(number=number, x=x, y=y, length=LINE_LENGTH)
            for number, x, y in line_places(job)
        ),
        strips=_strips(jobs),
        garments=tuple(
            TicketGarment(name=g.name, colour=g.colour, size=g.size, count=g.count)
            for one in jobs
            for g in one.garments
        ),
        back=_back(job),
        guide_svg="guide.svg",
        mode=job.printer.mode.name if job.printer.mode is not None else "",
        throw=job.printer.throw.value,
    )


def _strips(jobs: tuple[Faced, ...]) -> tuple[TicketStrip, ...]:
    """The strip of each job as it lies on the loaded board."""
    found = []
    for job in jobs:
        for strip in laid_strips(job):
            wide, high = strip.size[0], strip.size[1] - STRIP_LINE
            y, turned = strip.y + STRIP_LINE, job.bed_turned
            left, near = _as_loaded(job, *((strip.x + wide, y + high) if turned else (strip.x, y)))
            found.append(
                TicketStrip(x=left, y=near, width=wide, height=high, reference=STRIP_FILE,
                            upside_down=turned)
            )  # fmt: skip
    return tuple(found)


def _pieces(
    jobs: tuple[Faced, ...],
) -> tuple[tuple[TicketPiece, ...], tuple[TicketPocket, ...]]:
    """The pieces of each job, every kind once, and where they lie on the loaded board."""
    kinds: dict[tuple[int, TicketPiece], int] = {}
    pockets = []
    for which, job in enumerate(jobs):
        known: dict[int, int] = {}
        orders = {pick.number: pick.order for pick in job.job.picks}
        for piece in laid(job):
            if piece.form not in known:
                kind = which, _piece(job, piece.outline)
                known[piece.form] = kinds.setdefault(kind, len(kinds))
            x, y = _as_loaded(job, piece.x, piece.y)
            art = piece.what.artwork if piece.what is not None else None
            texts = piece.what.texts if piece.what is not None else ()
            pockets.append(
                TicketPocket(
                    number=piece.shown, x=x, y=y, piece=known[piece.form],
                    artwork=art.file_name if art is not None else "",
                    words=tuple(box.text for box in texts),
                    order=orders.get(piece.number, ""),
                )
            )  # fmt: skip
    return tuple(piece for _, piece in kinds), tuple(pockets)


def _as_loaded(job: Faced, x: float, y: float) -> tuple[float, float]:
    """A place of the bed's frame as it comes to lie when the board is loaded turned."""
    printer = job.printer
    return (printer.bed_width - x, printer.bed_height - y) if job.bed_turned else (x, y)


def _piece(job: Faced, outline: Polygon) -> TicketPiece:
    """A kind of piece, as it lies in its pocket on the loaded board."""
    points = corners(outline) * (-1 if job.bed_turned else 1)
    piece = job.piece
    return TicketPiece(
        name=piece.name,
        outline=tuple((round(float(x), 4), round(float(y), 4)) for x, y in points),
        height=piece.height,
        material=piece.surface.material.value,
        colour=piece.surface.colour,
        reader="both" if job.two_readers else job.reader.value,
    )


def _back(job: Faced) -> TicketBack | None:
    turning, other = job.turning, job.other
    if turning is None or other is None:
        return None
    pieces, pockets = _pieces((other,))
    return TicketBack(
        turn=turning.turn.value,
        board=turning.board,
        outlines=tuple(piece.outline for piece in pieces),
        pockets=pockets,
    )


def _board(jobs: tuple[Faced, ...]) -> TicketBoard:
    """The board, or one under the boards of all jobs; on a roll, the film."""
    bases = [carrier_of(job).base(job) for job in jobs]
    left, bottom = min(base.x for base in bases), min(base.y for base in bases)
    right = max(base.x + base.width for base in bases)
    top = max(base.y + base.height for base in bases)
    x, y = _as_loaded(jobs[0], *((right, top) if jobs[0].bed_turned else (left, bottom)))
    return TicketBoard(x=x, y=y, width=right - left, height=top - bottom, colour=bases[0].colour)
