"""The hand-off: a folder of files and the ticket for a receiver."""

from __future__ import annotations

import os
import shutil
import tempfile
from pathlib import Path
from typing import Literal

import numpy as np
import numpy.typing as npt

from farbe.estimate.estimate import guide_passes, ink_ml
from farbe.files.atomic import make_folder, writing_failed
from farbe.files.pdf import write_pdf
from farbe.files.svg import cut_svg
from farbe.files.ticket import (
    FILE_NAME,
    Ticket,
    TicketBack,
    TicketBoard,
    TicketLayer,
    TicketPiece,
    TicketPocket,
    TicketRun,
    ticket_json,
)
from farbe.files.tiff import write_tiff
from farbe.layout.bedframe import board_on_bed
from farbe.layout.cutfile import cut_page
from farbe.layout.guide import guide_ink, jig_code
from farbe.layout.outline import corners
from farbe.layout.pockets import piece_on_bed, used_pockets
from farbe.layout.sides import needs_own_guide, turned_over
from farbe.model.base import BadInput
from farbe.model.jig import GuideStyle
from farbe.model.job import Job
from farbe.model.receiver import FileFormat
from farbe.plan.order import channels, files_mirrored, mirrored, printing_layers
from farbe.render.bed import BedRaster, job_bed
from farbe.render.guide import guide_bed
from farbe.render.raster import Raster, Report, unwatched
from farbe.render.sources import Sources

What = Literal["guide", "artwork", "guide-back", "artwork-back"]


def hand_off(job: Job, sources: Sources, folder: Path, *, report: Report = unwatched) -> Ticket:
    """Write the hand-off of a job.

    All files are made in a folder beside it and put in place together at the end; files of an
    earlier hand-off are replaced, others in ``folder`` are left alone.

    Raises
    ------
    BadInput
        If the job cannot print or the folder cannot be written to.
    Cancelled
        If ``report`` does; ``folder`` is as it was.
    """
    artwork_bed = job_bed(job, sources)
    make_folder(folder)
    try:
        scratch = Path(tempfile.mkdtemp(prefix=".hand-off-", dir=folder))
    except OSError as error:
        raise writing_failed(folder / FILE_NAME, error) from error
    try:
        wanted = _runs_of(job, sources, artwork_bed)
        runs = tuple(
            _run(side, what, bed, scratch, lambda x, i=i: report((i + x) / len(wanted)))  # type: ignore[misc]
            for i, (side, what, bed) in enumerate(wanted)
        )
        (scratch / "guide.svg").write_text(cut_svg(cut_page(job)), encoding="utf-8")
        ticket = _ticket(job, runs)
        (scratch / FILE_NAME).write_bytes(ticket_json(ticket))
        # The ticket comes last: who sees it finds all that it names.
        for made in sorted(scratch.iterdir(), key=lambda path: path.name == FILE_NAME):
            os.replace(made, folder / made.name)
    except OSError as error:
        raise writing_failed(folder / FILE_NAME, error) from error
    finally:
        shutil.rmtree(scratch, ignore_errors=True)
    return ticket


def _runs_of(
    job: Job, sources: Sources, artwork: BedRaster
) -> tuple[tuple[Job, What, BedRaster], ...]:
    """The job as each run prints it, what the run is, and its bed, in time order."""
    front: tuple[tuple[Job, What, BedRaster], ...] = (
        (job, "guide", guide_bed(job)),
        (job, "artwork", artwork),
    )
    if job.back is None:
        return front
    other = turned_over(job)
    guide: tuple[tuple[Job, What, BedRaster], ...] = ()
    if needs_own_guide(job):
        guide = ((other, "guide-back", guide_bed(other)),)
    return (*front, *guide, (other, "artwork-back", job_bed(other, sources)))


def _run(job: Job, what: What, bed: Raster, folder: Path, report: Report) -> TicketRun:
    guide = what.startswith("guide")
    formats = job.receiver.formats
    names = {FileFormat.TIFF: f"{what}.tif", FileFormat.PDF: f"{what}.pdf"}
    sums: npt.NDArray[np.int64] | None = None
    for index, kind in enumerate(formats):

        def part(done: float, index: int = index) -> None:
            report((index + done) / len(formats))

        path = folder / names[kind]
        if kind is FileFormat.TIFF:
            sums = write_tiff(bed, path, compression=job.receiver.compression, report=part)
        else:
            sums = write_pdf(bed, path, report=part)
    if sums is None:
        raise BadInput(
            f"The receiver {job.receiver.name} takes no files; choose TIFF or PDF for it."
        )
    layers = _guide_layers(job, bed) if guide else _artwork_layers(job)
    return TicketRun(
        what=what,
        tiff=names[FileFormat.TIFF] if FileFormat.TIFF in formats else None,
        pdf=names[FileFormat.PDF] if FileFormat.PDF in formats else None,
        width_px=bed.size[0],
        height_px=bed.size[1],
        dpi_x=bed.grid.dpi_x,
        dpi_y=bed.grid.dpi_y,
        mirrored=not guide and files_mirrored(job.reader, job.receiver),
        receiver_mirrors=not guide and mirrored(job.reader) and job.receiver.mirrors,
        passes=guide_passes(job) if guide else job.printer.passes,
        layers=layers,
        ink_ml=_inks(job, bed, sums, layers),
        jig_code=jig_code(job),
    )


def _guide_layers(job: Job, bed: Raster) -> tuple[TicketLayer, ...]:
    hits = job.guide.kerb_hits if job.guide.style is GuideStyle.KERB else 1
    name, kind = bed.channels[0].name, guide_ink(job).kind.value
    return (TicketLayer(name="Guide", kind=kind, channels=(name,), hits=hits),)


def _artwork_layers(job: Job) -> tuple[TicketLayer, ...]:
    found = channels(job)
    return tuple(
        TicketLayer(
            name=layer.name,
            kind=layer.kind.value,
            channels=tuple(c.name for c in found if c.layer is layer),
            hits=layer.hits,
        )
        for layer in printing_layers(job.stack)
    )


def _inks(
    job: Job, bed: Raster, sums: npt.NDArray[np.int64], layers: tuple[TicketLayer, ...]
) -> dict[str, float]:
    """ml of each channel as written, all hits."""
    hits = {name: layer.hits for layer in layers for name in layer.channels}
    wanted = {job.receiver.channel(ink.name): ink for ink in job.printer.inks}
    by_channel = {c.name: c.ink for c in channels(job)} | {
        info.name: wanted[info.name] for info in bed.channels if info.name in wanted
    }
    return {
        info.name: round(
            ink_ml(
                float(total), by_channel[info.name], bed.grid.dpi_x, bed.grid.dpi_y, hits[info.name]
            ),
            4,
        )
        for info, total in zip(bed.channels, sums, strict=True)
    }


def _as_loaded(job: Job, x: float, y: float) -> tuple[float, float]:
    """A place of the bed's frame as it comes to lie when the board is loaded turned."""
    printer = job.printer
    return (printer.bed_width - x, printer.bed_height - y) if job.bed_turned else (x, y)


def _outline(job: Job) -> tuple[tuple[float, float], ...]:
    """The piece as it lies in its pocket on the loaded board."""
    points = corners(piece_on_bed(job)) * (-1 if job.bed_turned else 1)
    return tuple((round(float(x), 4), round(float(y), 4)) for x, y in points)


def _pockets(job: Job) -> tuple[TicketPocket, ...]:
    return tuple(
        TicketPocket(number=p.number, x=at[0], y=at[1])
        for p in used_pockets(job)
        for at in [_as_loaded(job, p.x, p.y)]
    )


def _back(job: Job) -> TicketBack | None:
    if job.back is None:
        return None
    turning, other = job.back.turning, turned_over(job)
    return TicketBack(
        turn=turning.turn.value,
        board=turning.board,
        outline=_outline(other),
        pockets=_pockets(other),
    )


def _ticket(job: Job, runs: tuple[TicketRun, ...]) -> Ticket:
    board, piece = job.jig.board, job.piece
    left, bottom, right, top = board_on_bed(board, job.jig.datum, job.printer)
    x, y = _as_loaded(job, *((right, top) if job.bed_turned else (left, bottom)))
    return Ticket(
        job=job.name,
        printer=job.printer.name,
        bed_width=job.printer.bed_width,
        bed_height=job.printer.bed_height,
        board=TicketBoard(x=x, y=y, width=board.width, height=board.height, colour=board.colour),
        piece=TicketPiece(
            name=piece.name,
            outline=_outline(job),
            height=piece.height,
            material=piece.surface.material.value,
            colour=piece.surface.colour,
        ),
        reader=job.reader.value,
        pockets=_pockets(job),
        runs=runs,
        back=_back(job),
        guide_svg="guide.svg",
    )
