"""The hand-off: a folder of files and the ticket for a receiver."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path

from farbe.estimate.ink import ink_ml
from farbe.estimate.runs import Run, runs
from farbe.estimate.swaths import guide_passes, run_seconds
from farbe.files.pdfpages import pdf_pages
from farbe.files.placed import CUT_FILE, EXCHANGE_FILE, PREVIEWS, STRIP_FILE, in_place_of
from farbe.files.previews import write_previews
from farbe.files.reference import write_reference
from farbe.files.stripfile import strip_reference
from farbe.files.svg import cut_svg
from farbe.files.ticket import (
    FILE_NAME,
    Ticket,
    TicketFile,
    TicketLayer,
    TicketRun,
    digest_of,
    ticket_json,
)
from farbe.files.ticketof import ticket_of
from farbe.files.writers import WRITERS, Given
from farbe.files.xjdf import exchange_ticket
from farbe.layout.cutfile import cut_page
from farbe.layout.faced import Faced
from farbe.layout.guide import shared_code
from farbe.layout.rolls import sheets
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.model.receiver import FileFormat, Inks, Receiver, Split
from farbe.plan.order import Channel, channels, channels_of, files_mirrored, mirrored
from farbe.plan.receivers import no_files
from farbe.plan.shared import shared_stack
from farbe.render.cutlines import cut_lines
from farbe.render.piece import channel_infos
from farbe.render.raster import ChannelInfo, Elsewhere, Raster, Report, some_channels, unwatched
from farbe.render.shared import artwork_bed, guide_trips, guides_bed
from farbe.render.sources import Sources


def hand_off(
    job: Job,
    sources: Sources,
    folder: Path,
    *,
    others: tuple[Job, ...] = (),
    elsewhere: FileElsewhere | None = None,
    report: Report = unwatched,
) -> Ticket:
    """Write the hand-off of a job, or of several that share the bed.

    All files are made in a folder beside it, which takes its place at the end: an earlier hand-off
    is replaced as a whole, and what does not belong to one stays.

    Parameters
    ----------
    job : that prints
    sources : pixels, fonts and profiles
    folder : that is written or replaced
    others : that print on the same board
    elsewhere : makes strips of files in other processes; see :func:`file_raster`
    report : is told how far it is

    Returns
    -------
    The ticket that was written.

    Raises
    ------
    BadInput
        If the job cannot print or the folder cannot be written to.
    Cancelled
        If ``report`` does; ``folder`` is as it was.
    """
    jobs = tuple(Faced(one) for one in (job, *others))
    bed = artwork_bed(jobs, sources)
    with in_place_of(folder) as scratch:
        wanted = runs(*jobs)
        beds = _beds(wanted, sources, bed)
        made = tuple(
            _run(
                run, beds, sources, scratch, partial(_part_of, report, i, len(wanted)),
                None if elsewhere is None else partial(elsewhere, i),
            )
            for i, run in enumerate(wanted)
        )  # fmt: skip
        (scratch / CUT_FILE).write_text(
            cut_svg(cut_page(*jobs, shapes=[cut_lines(one, sources) for one in jobs])),
            encoding="utf-8",
        )
        ticket = ticket_of(jobs, made)
        for one in jobs:
            strip = strip_reference(one, sources.profile(one))
            if strip is not None:
                write_reference(strip, scratch / STRIP_FILE)
        if job.receiver.previews:
            shown = write_previews(jobs, sources, scratch / PREVIEWS)
            ticket = ticket.replace(previews=tuple(f"{PREVIEWS}/{name}" for name in shown))
        if job.receiver.exchange:
            (scratch / EXCHANGE_FILE).write_bytes(exchange_ticket(ticket))
        (scratch / FILE_NAME).write_bytes(ticket_json(ticket))
    return ticket


def _part_of(report: Report, at: int, count: int, done: float) -> None:
    report((at + done) / count)


#: What makes the strips of a file in other processes, by the numbers of its run, of the file in
#: it, and of the page; None makes them here.
FileElsewhere = Callable[[int, int, int], Elsewhere | None]


def file_raster(
    job: Job, sources: Sources, run: int, file: int, page: int
) -> tuple[Raster, FileFormat]:
    """The raster of a page of a hand-off's file, and its format, for whoever makes its strips.

    Parameters
    ----------
    job : that is handed off by itself
    sources : pixels, fonts and profiles
    run, file, page : numbers of the run, of the file in it, and of the page, from 0
    """
    jobs = (Faced(job),)
    one = runs(*jobs)[run]
    bed = _beds((one,), sources, artwork_bed(jobs, sources))[one.what]
    wanted = planned_files(one)[file]
    if wanted.format is FileFormat.PDF:
        pages = pdf_pages(one, wanted.channels, bed, sources)
        if pages:
            return pages[page].raster, wanted.format
    return _raster_of(wanted, bed, one.job.receiver), wanted.format


def _raster_of(file: PlannedFile, bed: Raster, receiver: Receiver) -> Raster:
    return some_channels(bed, _process_first(file.channels, receiver))


def hand_off_sheets(
    job: Job, sources: Sources, folder: Path, *, report: Report = unwatched
) -> tuple[Ticket, ...]:
    """Write the hand-off of a job; of a roll with several sheets, one for each in its own folder.

    Parameters
    ----------
    job : that prints
    sources : pixels, fonts and profiles
    folder : that is written or replaced
    report : is told how far it is

    Returns
    -------
    A ticket for each sheet, in their order.

    Raises
    ------
    BadInput, Cancelled
        As :func:`hand_off`; sheets that are whole stay.
    """
    parts = sheets(job)
    if len(parts) == 1:
        return (hand_off(parts[0], sources, folder, report=report),)
    return tuple(
        hand_off(
            part, sources, folder / f"sheet-{i + 1}",
            report=lambda x, i=i: report((i + x) / len(parts)),  # type: ignore[misc]
        )
        for i, part in enumerate(parts)
    )  # fmt: skip


def _beds(wanted: tuple[Run, ...], sources: Sources, artwork: Raster) -> dict[str, Raster]:
    """The bed of each kind of run that is wanted, with all its channels."""
    found: dict[str, Raster] = {"artwork": artwork}
    for run in wanted:
        if run.what not in found:
            found[run.what] = (
                guides_bed(run.jobs) if run.is_guide else artwork_bed(run.jobs, sources)
            )
    return found


@dataclass(frozen=True)
class PlannedFile:
    """A file that a run needs, by its name, and the channels of the bed in it."""

    name: str
    format: FileFormat
    channels: tuple[ChannelInfo, ...]


def planned_files(run: Run) -> tuple[PlannedFile, ...]:
    """The files of a run for its receiver, before anything is written.

    Parameters
    ----------
    run : of a job

    Raises
    ------
    BadInput
        If the receiver takes no format.
    """
    job = run.job
    receiver = job.receiver
    if refused := no_files(receiver):
        raise BadInput(refused)
    layers = ticket_layers(run)
    infos = {info.name: info for info in _channel_infos(run)}
    together = tuple(infos[name] for layer in layers for name in layer.channels)
    # Channels are in the order of the printer's inks, as in the bed.
    together = tuple(info for info in infos.values() if info in together)
    found = []
    for kind in receiver.formats:
        writer = WRITERS[kind]
        suffix = writer.suffix
        if writer.splits and receiver.split is Split.CHANNEL:
            found += [
                PlannedFile(f"{run.name} {file_word(info.name)}{suffix}", kind, (info,))
                for info in together
            ]
        elif writer.splits and receiver.split is Split.LAYER and len(layers) > 1:
            found += [
                PlannedFile(
                    f"{run.name} {file_word(layer.name)}{suffix}",
                    kind,
                    tuple(info for info in together if info.name in layer.channels),
                )
                for layer in layers
            ]
        else:
            found.append(PlannedFile(f"{run.name}{suffix}", kind, together))
    return told_apart(found)


def told_apart(planned: list[PlannedFile]) -> tuple[PlannedFile, ...]:
    """Files no two of which have one name, whatever a file system thinks of capitals.

    Parameters
    ----------
    planned : files, some of which may have the same name
    """
    taken, found = set[str](), []
    for file in planned:
        name, number = file.name, 1
        stem, dot, suffix = file.name.rpartition(".")
        while name.casefold() in taken:
            number += 1
            name = f"{stem} {number}{dot}{suffix}"
        taken.add(name.casefold())
        found.append(replace(file, name=name))
    return tuple(found)


def file_word(name: str) -> str:
    """A layer's name as a part of a file's.

    Parameters
    ----------
    name : of a layer
    """
    plain = "".join(c if c.isalnum() else "-" for c in name.casefold())
    return plain.strip("-") or "layer"


def _channel_infos(run: Run) -> tuple[ChannelInfo, ...]:
    if run.is_guide:
        return tuple(trip.channel for trip in guide_trips(run.jobs))
    return channel_infos(run_channels(run))


def _run(
    run: Run,
    beds: dict[str, Raster],
    sources: Sources,
    folder: Path,
    report: Report,
    elsewhere: Callable[[int, int], Elsewhere | None] | None,
) -> TicketRun:
    job, bed = run.job, beds[run.what]
    files, sums = planned_files(run), dict[str, int]()
    names = " + ".join(one.name for one in run.jobs)
    given = Given(job.receiver, sources.profile(job), f"{names}, {run.name}")
    for index, file in enumerate(files):

        def part(done: float, index: int = index) -> None:
            report((index + done) / len(files))

        raster = _raster_of(file, bed, job.receiver)
        pages = pdf_pages(run, file.channels, bed, sources) if file.format is FileFormat.PDF else ()
        written = WRITERS[file.format].write(
            raster,
            folder / file.name,
            replace(given, pages=pages, elsewhere=partial(elsewhere, index) if elsewhere else None),
            part,
        )
        sums |= {i.name: int(n) for i, n in zip(raster.channels, written, strict=True)}
    layers = ticket_layers(run)
    return TicketRun(
        name=run.name,
        what=run.what,
        files=tuple(
            TicketFile(
                name=f.name,
                format=f.format.value,
                channels=tuple(i.name for i in _process_first(f.channels, job.receiver)),
                sha256=digest_of(folder / f.name),
            )
            for f in files
        ),
        dry_seconds=job.running.dry if not run.is_guide and run.name != run.what else 0.0,
        seconds=round(run_seconds(run), 1),
        width_px=bed.size[0],
        height_px=bed.size[1],
        dpi_x=bed.grid.dpi_x,
        dpi_y=bed.grid.dpi_y,
        mirrored=not run.is_guide
        and any(files_mirrored(one.reader, one.receiver) for one in run.jobs),
        receiver_mirrors=not run.is_guide and mirrored(job.reader) and job.receiver.mirrors,
        passes=guide_passes(job) if run.is_guide else job.printer.passes,
        layers=layers,
        ink_ml=_inks(job, bed, sums, layers),
        jig_code=shared_code(run.jobs),
    )


def _process_first(
    channels: tuple[ChannelInfo, ...], receiver: Receiver
) -> tuple[ChannelInfo, ...]:
    """Channels with the four inks of the first picture before all others, where a receiver takes
    CMYK with extra samples."""
    if receiver.tiff.inks is not Inks.CMYK:
        return channels
    first = next((info.layer for info in channels if info.process >= 0), None)
    own = sorted(
        (info for info in channels if info.process >= 0 and info.layer == first),
        key=lambda info: info.process,
    )
    return (*own, *(info for info in channels if info not in own))


def run_channels(run: Run) -> tuple[Channel, ...]:
    """The channels of all artwork runs of a run's jobs.

    Parameters
    ----------
    run : of the job
    """
    if len(run.jobs) == 1:
        return channels(run.job)
    return channels_of(shared_stack(run.jobs).layers, run.job.printer, run.job.receiver)


def ticket_layers(run: Run) -> tuple[TicketLayer, ...]:
    """The layers of a run in printing order, with the names of their channels.

    Parameters
    ----------
    run : of the job
    """
    if run.is_guide:
        trips = guide_trips(run.jobs)
        return tuple(
            TicketLayer(
                name="Guide" if i == 0 else f"Guide {i + 1}", kind=trip.ink.kind.value,
                channels=(trip.channel.name,), inks=(trip.ink.name,), hits=trip.hits,
            )
            for i, trip in enumerate(trips)
        )  # fmt: skip
    found = run_channels(run)
    return tuple(
        TicketLayer(
            name=layer.name,
            kind=layer.kind.value,
            channels=tuple(c.name for c in found if c.layer.name == layer.name),
            inks=tuple(c.ink.name for c in found if c.layer.name == layer.name),
            hits=layer.hits,
        )
        for layer in run.layers
    )


def _inks(
    job: Faced, bed: Raster, sums: dict[str, int], layers: tuple[TicketLayer, ...]
) -> dict[str, float]:
    """ml of each channel as written, all hits."""
    laydown = {ink.name: job.machine.laid(ink) for ink in job.machine.inks}
    return {
        channel: round(
            ink_ml(sums[channel], laydown[ink], bed.grid.dpi_x, bed.grid.dpi_y, layer.hits), 4
        )
        for layer in layers
        for channel, ink in zip(layer.channels, layer.inks, strict=True)
    }
