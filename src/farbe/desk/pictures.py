"""Pictures of the window for the documents, from the samples."""

from __future__ import annotations

import contextlib
import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEvent, QEventLoop, QTimer

from farbe.desk.app import make_app, settle
from farbe.desk.preferences import Preferences
from farbe.desk.stations.proof.form import LookForm, ProofInspector
from farbe.desk.theme import LIGHT, use_theme
from farbe.desk.window import MainWindow
from farbe.files.store import ArtStore
from farbe.folders import press_folders
from farbe.follows.looking import Shown
from farbe.model.base import BadInput
from farbe.plan.stations import Station
from farbe.press.client import PressLine
from farbe.said import say


def _proof(change: Callable[[LookForm], object]) -> Callable[[MainWindow], object]:
    def prepare(window: MainWindow) -> None:
        bench = window.bench
        inspector = bench.views[Station.PROOF].inspector if bench is not None else None
        if isinstance(inspector, ProofInspector):
            change(inspector.look)

    return prepare


def _on_body(form: LookForm) -> None:
    form.choose(Shown.BODY)
    form.turn.setValue(25)


def _as_it_is(_: MainWindow) -> None:
    """Nothing is prepared."""


#: Longer than any picture waits for the hand that moves it.
REST_MS = 300
#: Pictures of other samples: which one, where, and what is done first.
_MORE: dict[str, tuple[str, Station, Callable[[MainWindow], object]]] = {
    "bed-names": ("name-tags", Station.BED, _as_it_is),
    "proof-lit": ("stall-sign", Station.PROOF, _proof(lambda form: form.light.setValue(100))),
    "two-readers": ("shop-window", Station.PROOF, _as_it_is),
    "film": ("apron-gang", Station.BED, _as_it_is),
    "film-sides": ("hanging-banners", Station.BED, _as_it_is),
    "finding": ("market-pens", Station.LAYERS, lambda window: window.check_bar.next_place()),
    "round-body": ("tapered-beaker", Station.PROOF, _proof(_on_body)),
}


def _rest(window: MainWindow) -> None:
    """Wait for all work, and for what is made finer a moment after the picture came to rest."""
    settle(window)
    loop = QEventLoop()
    QTimer.singleShot(REST_MS, loop.quit)
    loop.exec()
    settle(window)


def write_pictures(folder: Path) -> int:
    """A 1280 x 800 PNG of the start page and of each station with the sample job."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    app = make_app()
    use_theme(app, LIGHT)
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError:
        raise BadInput(
            say("{folder} cannot be made; choose another folder.", folder=folder)
        ) from None
    with tempfile.TemporaryDirectory(prefix="farbe-art-") as art:
        # Nothing of the user's own shows in the pictures.
        for name in ("FARBE_CONFIG", "FARBE_STATE", "FARBE_DATA"):
            os.environ[name] = art
        preferences = Preferences()
        preferences.pace = 0.0
        window = MainWindow(ArtStore(Path(art)), preferences)
        window.resize(1280, 800)
        window.show()
        settle(window)
        window.grab().save(str(folder / "start.png"))
        window.open_sample("jar-lids")
        settle(window)
        for station in Station:
            window.visit(station)
            if station is Station.RUN:
                window.send_job()
            _rest(window)
            window.grab().save(str(folder / f"{station.value.lower()}.png"))
        for name, (sample, station, prepare) in _MORE.items():
            window.open_sample(sample)
            settle(window)
            window.visit(station)
            settle(window)
            prepare(window)
            _rest(window)
            window.grab().save(str(folder / f"{name}.png"))
        # What it printed on is no longer wanted.
        for spool in press_folders():
            with contextlib.suppress(BadInput), PressLine(spool) as press:
                press.ask(do="quit")
        window.close()
        window.deleteLater()
        app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    return 0
