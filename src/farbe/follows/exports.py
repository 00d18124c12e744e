"""Files that are made of a job while someone waits for them."""

from __future__ import annotations

import json
from pathlib import Path

from farbe.atomic import whole_file
from farbe.checks.stops import refuse_stopped
from farbe.estimate.estimate import Estimate
from farbe.estimate.report import estimate_report, report_csv
from farbe.files.handoff import hand_off_sheets
from farbe.files.paper import Paper
from farbe.files.picklist import small_pictures
from farbe.files.runsheet import write_run_sheet
from farbe.files.store import ArtStore
from farbe.files.ticket import Ticket
from farbe.layout.faced import Faced
from farbe.model.job import Job
from farbe.queue.store import Queue
from farbe.queue.work import add_job, prepare
from farbe.render.onepass import one_pass
from farbe.render.raster import Report


def handed_off(job: Job, store: ArtStore, folder: Path, report: Report) -> tuple[Ticket, ...]:
    """The hand-off of a job that nothing stops.

    Parameters
    ----------
    job : with one face or two
    store : of its files
    folder : for the hand-off
    report : is told how far it is

    Raises
    ------
    BadInput
        If a check stops the job, or the files cannot be written.
    """
    with one_pass():
        refuse_stopped(job, store, lambda done: report(0.3 * done))
        return hand_off_sheets(job, store, folder, report=lambda done: report(0.3 + 0.7 * done))


def added_to_queue(
    folder: Path, job: Job, store: ArtStore, report: Report, *, held: bool = False
) -> int:
    """Put a job at the end of a queue; its number.

    Parameters
    ----------
    folder : of the queue
    job : as it is printed
    store : of its files
    report : is told how far it is
    held : it waits until it is released

    Raises
    ------
    BadInput
        If a check stops the job.
    """
    return add_job(Queue(folder), job, store, held=held, report=report)


def prepared(folder: Path, number: int, store: ArtStore, report: Report) -> Path:
    """Write the hand-off of an entry of a queue, unless it is written; its folder.

    Parameters
    ----------
    folder : of the queue
    number : of the entry
    store : of its files
    report : is told how far it is

    Raises
    ------
    BadInput
        If a check stops the job, or it cannot be written.
    """
    return prepare(Queue(folder), number, store, report)


def write_bench_sheet(
    job: Faced,
    store: ArtStore,
    foretold: Estimate,
    told: tuple[tuple[str, str], ...],
    path: Path,
    paper: Paper,
) -> None:
    """Write the sheet for the bench.

    Parameters
    ----------
    job : as its first face has it
    store : of its files
    foretold : its estimate
    told : weight and words of each finding
    path : of the file
    paper : its size

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    pictures = small_pictures(job, store) if job.job.picks else None
    write_run_sheet(job, foretold, told, path, paper, pictures=pictures)


def write_estimate(job: Faced, store: ArtStore, path: Path) -> None:
    """Write all figures; as CSV if the file's name says so.

    Parameters
    ----------
    job : as its first face has it
    store : of its files
    path : of the file

    Raises
    ------
    BadInput
        If it cannot be written.
    """
    found = estimate_report(job, store)
    text = (
        report_csv(found)
        if path.suffix.lower() == ".csv"
        else json.dumps(found, indent=1, ensure_ascii=False)
    )
    with whole_file(path) as file:
        file.write(text.encode("utf-8"))
