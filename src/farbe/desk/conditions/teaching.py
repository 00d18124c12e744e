"""Teaching the printer of a job: from files of readings, or on the test press."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from dataclasses import dataclass
from datetime import date
from pathlib import Path

from farbe.desk.session import Session
from farbe.files.printerfile import keep_printer, kept_printers
from farbe.files.reference import read_reference
from farbe.files.store import ArtStore
from farbe.folders import press_folder
from farbe.layout.faced import Faced
from farbe.measure.profile import Detail, can_make_profiles
from farbe.measure.readings import read_readings
from farbe.measure.strip import fitting, is_strip, with_drift
from farbe.measure.teach import Taught, Wishes, taught
from farbe.model.base import BadInput
from farbe.model.condition import Condition
from farbe.model.printer import Printer
from farbe.press.client import press_of
from farbe.said import say, spoken
from farbe.testprint.charts import (
    ChartWishes,
    lets_through,
    read_on_press,
    write_chart,
)

#: Share of the work on the test press that printing takes.
PRINTING = 0.4
Report = Callable[[float], None]


@dataclass(frozen=True)
class FilesToTake:
    """What was chosen to be taken: a chart's reference, its readings, and how.

    ``detail`` of None makes no profile.
    """

    reference: Path
    readings: tuple[Path, ...]
    lit: tuple[Path, ...]
    name: str
    linear: bool
    detail: Detail | None


def name_for(job: Faced) -> str:
    """What a condition of the job's printer is called, if nobody says otherwise."""
    mode = job.printer.mode
    words = say("own settings") if mode is None else spoken(mode.name)
    return say("{surface}, {mode}", surface=job.piece.surface.material.words, mode=words)


def taught_by_files(
    job: Faced, store: ArtStore, files: FilesToTake, report: Report
) -> Taught | Condition:
    """The condition that follows from files of readings; of a strip, the one that it belongs to
    with how far it is off."""
    reference = read_reference(files.reference)
    day = [read_readings(path) for path in files.readings]
    if is_strip(reference):
        belongs = fitting(reference, job.printer)
        profile = _profile(job, store, belongs)
        today = date.today()
        return with_drift(reference, day, job.printer, belongs, profile, today)
    lit = [read_readings(path) for path in files.lit]
    wishes = Wishes(
        files.name or name_for(job), date.today(), linear=files.linear,
        profile=files.detail is not None, detail=files.detail or Detail.LOW,
        judged=job.conversion.profile,
    )  # fmt: skip
    before = job.printer.condition(reference.surface.material)
    return taught(
        reference, day, job.printer, _profile(job, store, before), wishes, lit=lit, before=before,
        report=report,
    )  # fmt: skip


def taught_on_press(job: Faced, store: ArtStore, report: Report) -> Taught:
    """The condition of the test press: a chart is printed on it and read by a simulated device."""
    surface, printer = job.piece.surface, job.printer
    before = job.condition
    profile = _profile(job, store, before)
    wishes = ChartWishes(surface, job.reader, film=job.roll is not None)
    with tempfile.TemporaryDirectory(prefix="farbe-chart-") as folder:
        where = Path(folder) / "chart"
        chart = write_chart(
            wishes, printer, job.receiver, profile, where,
            report=lambda done: report(PRINTING * done),
        )  # fmt: skip
        ways = (False, True) if lets_through(surface) else (False,)
        with press_of(press_folder(printer.name)) as press:
            read = read_on_press(press, where, chart.reference, by_lamp=ways)
    detail = Detail.LOW if can_make_profiles() else None
    made = Wishes(name_for(job), date.today(), profile=detail is not None,
                  detail=detail or Detail.LOW)  # fmt: skip
    return taught(
        chart.reference, read[:1], printer, profile, made, lit=read[1:], before=before,
        report=lambda done: report(PRINTING + (1.0 - PRINTING) * done),
    )  # fmt: skip


def _profile(job: Faced, store: ArtStore, before: Condition | None) -> bytes:
    if job.conversion.profile is None and before is not None and before.profile is not None:
        return store.profile_bytes(before.profile)
    return store.profile(job)


def learn(session: Session, made: Taught, printer: Printer) -> None:
    """Give the condition to a printer in the job, and to the one of its name that is kept."""
    for icc in made.profiles.values():
        session.store.add_bytes(icc)
    take_condition(session, made.condition, printer)


def take_condition(session: Session, condition: Condition, printer: Printer) -> None:
    """Give a printer a condition whose profiles are in the store: the kept one, and the job's.

    A job that is for another one by now has no use for it.
    """
    job = session.first
    if job is not None and job.printer.name == printer.name:
        session.edit(
            say("Condition {name}", name=condition.name),
            lambda j: j.replace(printer=j.printer.knowing(condition)),
        )
    _keep(session, _base(printer).knowing(condition))


def _keep(session: Session, printer: Printer) -> None:
    """Keep a printer; where that cannot be, it is said, and the job has its condition all the
    same."""
    try:
        keep_printer(printer, session.store)
    except BadInput as error:
        session.said.emit(str(error))


def _base(printer: Printer) -> Printer:
    """The printer of this name as it is kept or ships; the job's own if it is neither."""
    return next((f.printer for f in kept_printers() if f.printer.name == printer.name), printer)


def forget(session: Session, condition: Condition) -> None:
    """Take a condition away from the job's printer, and from the kept one."""
    job = session.first
    if job is None:
        return

    def without(printer: Printer) -> Printer:
        left = tuple(one for one in printer.conditions if one.name != condition.name)
        return printer.replace(conditions=left)

    session.edit(
        say("Without the condition {name}", name=spoken(condition.name)),
        lambda j: j.replace(printer=without(j.printer)),
    )
    kept = _base(job.printer)
    if any(one.name == condition.name for one in kept.conditions):
        _keep(session, without(kept))
