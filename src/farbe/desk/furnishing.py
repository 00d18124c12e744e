"""All of the window but its start page: what loads the rest of Farbe."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from farbe.desk.checkbar import CheckBar
from farbe.desk.consequences import Consequences
from farbe.desk.exports import Exports
from farbe.desk.intake import Intake
from farbe.desk.jobfiles import JobFiles
from farbe.desk.jobline import JobLine
from farbe.desk.lookstrip import LookStrip
from farbe.desk.orders.plandesk import PlanDesk
from farbe.desk.picking import Picking
from farbe.desk.pressdesk import PressDesk
from farbe.desk.rail import Rail
from farbe.desk.results import Results
from farbe.desk.session import SEEN, Session
from farbe.desk.stations.base import Desk
from farbe.desk.turns import BeforeInput, PaintTurns
from farbe.desk.watchdesk import WatchDesk
from farbe.desk.workers import Workers
from farbe.files.store import ArtStore

if TYPE_CHECKING:
    from farbe.desk.window import MainWindow


@dataclass(frozen=True)
class Furnishing:
    """The parts of a window that stay as long as it does."""

    session: Session
    workers: Workers
    results: Results
    consequences: Consequences
    intake: Intake
    files: JobFiles
    desk: Desk
    press: PressDesk
    watcher: WatchDesk
    plan: PlanDesk
    job_line: JobLine
    rail: Rail
    check_bar: CheckBar
    look_strip: LookStrip


def furnishing_of(window: MainWindow, store: ArtStore | Path) -> Furnishing:
    """Make the parts of a window.

    Parameters
    ----------
    window : that they belong to
    store : where the files of its jobs are, or the folder for them
    """
    preferences = window.preferences
    kept = ArtStore(store, read_elsewhere=True) if isinstance(store, Path) else store
    session = Session(kept, window)
    turns = PaintTurns(window)
    workers = Workers(window, paints=lambda: turns.waiting)
    turns.painted.connect(workers.receive_held, Qt.ConnectionType.QueuedConnection)
    session.once_drawn = workers.once_drawn
    # Nobody acts on what is shown of the job before an edit.
    BeforeInput(window, partial(workers.do_now, SEEN))
    results = Results(session, workers)
    intake, picking = Intake(session, workers, preferences, window), Picking(window)
    for leaving in (session.opening, session.turning):
        leaving.connect(picking.end)
    desk = Desk(
        session, workers, results, picking, intake,
        Exports(session, workers, results, preferences, window),
        lambda: preferences.currency, preferences.remember_plate, preferences.meaning,
    )  # fmt: skip
    return Furnishing(
        session=session,
        workers=workers,
        results=results,
        consequences=Consequences(session, workers),
        intake=intake,
        files=JobFiles(session, workers, preferences, intake, window),
        desk=desk,
        press=PressDesk(session, workers),
        watcher=WatchDesk(session, workers),
        plan=PlanDesk(session, workers),
        job_line=JobLine(),
        rail=Rail(),
        check_bar=CheckBar(),
        look_strip=LookStrip(results),
    )
