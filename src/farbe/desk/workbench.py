"""The stations with a job: rail, picture, what lies under it, inspector."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator, Mapping
from functools import partial
from itertools import chain

from PySide6.QtCore import QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QStackedWidget, QVBoxLayout, QWidget

from farbe.checks.check import Check, CheckPlace
from farbe.desk.canvas import Canvas
from farbe.desk.finder import Command, values_of
from farbe.desk.inspector import Inspector
from farbe.desk.leads import LEADS, worst_of_things
from farbe.desk.pressdesk import PressDesk
from farbe.desk.rail import Rail
from farbe.desk.section import Section
from farbe.desk.session import SEEN
from farbe.desk.stations.base import Desk, StationView
from farbe.desk.stations.bed.station import bed_station
from farbe.desk.stations.layers.platestrip import PlateStrip
from farbe.desk.stations.layers.station import layers_station
from farbe.desk.stations.piece.station import piece_station
from farbe.desk.stations.proof.station import proof_station
from farbe.desk.stations.run.runlist import RunPicture
from farbe.desk.stations.run.station import run_station
from farbe.desk.stations.worlds import PieceWorld
from farbe.desk.theme import fixed, px
from farbe.desk.watchdesk import WatchDesk
from farbe.plan.stations import Station
from farbe.said import say

#: How high the section is.
UNDER = 182
#: Milliseconds after which each thing around the picture follows it: a frame of most screens.
FRAME_MS = 16


class Views(Mapping[Station, StationView]):
    """The stations, each made when somebody asks for it.

    Parameters
    ----------
    make : a station's parts
    """

    def __init__(self, make: Callable[[Station], StationView]) -> None:
        self._make = make
        self._made: dict[Station, StationView] = {}

    def __getitem__(self, station: Station) -> StationView:
        if station not in self._made:
            self._made[station] = self._make(station)
        return self._made[station]

    def __iter__(self) -> Iterator[Station]:
        return iter(Station)

    def __len__(self) -> int:
        return len(Station)


class Workbench(QWidget):
    """Made when the first job is there, so that the start page need not wait for it."""

    def __init__(self, desk: Desk, press: PressDesk, watcher: WatchDesk, rail: Rail) -> None:
        super().__init__()
        self.section, self._rail, self._workers = Section(desk.session), rail, desk.workers
        self._makers: dict[Station, Callable[[], StationView]] = {
            Station.PIECE: lambda: piece_station(desk),
            Station.BED: lambda: bed_station(desk, press.add_again),
            Station.LAYERS: lambda: layers_station(desk, self.section),
            Station.PROOF: lambda: proof_station(desk),
            Station.RUN: lambda: run_station(desk, press, watcher),
        }
        #: Made when each is first needed.
        self.views = Views(self._made)
        self._pictures, self._inspectors = QStackedWidget(), QStackedWidget()
        self._under = QStackedWidget()
        self._under.addWidget(self.section)
        #: What lies around the picture of a visited station and is not painted yet.
        self._unpainted: list[list[QWidget]] = []
        self._later = QTimer(self, interval=FRAME_MS)
        self._later.timeout.connect(self._go_on)
        fixed(self._inspectors, wide=Inspector.WIDE)
        middle = QVBoxLayout()
        middle.setSpacing(0)
        middle.addWidget(self._pictures, 1)
        middle.addWidget(self._under)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(rail)
        row.addLayout(middle, 1)
        row.addWidget(self._inspectors)

    def _made(self, station: Station) -> StationView:
        view = self._makers[station]()
        self._pictures.addWidget(view.picture)
        self._inspectors.addWidget(view.inspector)
        if view.under is not None:
            self._under.addWidget(view.under)
        return view

    def visit(self, station: Station) -> None:
        """Show a station."""
        view = self.views[station]
        self._pictures.setCurrentWidget(view.picture)
        self._inspectors.setCurrentWidget(view.inspector)
        self._under.setCurrentWidget(view.under or self.section)
        self._fit_under()
        self._paint_around(view)

    def _paint_around(self, view: StationView) -> None:
        """Paint what lies around a station's picture after it, one thing at a time.

        To paint all of a station at once takes longer than the window may wait.
        """
        # What is left of a station that was only passed by is not seen.
        while self._unpainted:
            self._paint_next()
        strips = view.picture.findChildren(PlateStrip)
        self._unpainted = [
            [self._rail], [self._inspectors], [view.inspector.listed],
            *chain.from_iterable(strip.parts() for strip in strips),
            [self._under],
        ]  # fmt: skip
        for one in chain.from_iterable(self._unpainted):
            one.setUpdatesEnabled(False)
        self._later.start()

    @property
    def is_painted(self) -> bool:
        """Whether all of the station that was visited last was asked to paint."""
        return not self._unpainted

    def _go_on(self) -> None:
        # A window that is held up paints one thing after the other all the same.
        if not self._workers.paints():
            self._paint_next()

    def _paint_next(self) -> None:
        for one in self._unpainted.pop(0):
            one.setUpdatesEnabled(True)
        if not self._unpainted:
            self._later.stop()

    def _fit_under(self) -> None:
        """What lies under the picture gets its height, but in low windows not much over a third."""
        shown = self._under.currentWidget()
        wanted = shown.property("wanted") if shown is not None else None
        high = px(UNDER if wanted is None else wanted)
        self._under.setFixedHeight(min(high, round(self.height() * 0.42)))

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._fit_under()

    def canvases(self, station: Station) -> list[Canvas]:
        """The pictures of a station that can be zoomed."""
        picture = self.views[station].picture
        return [c for c in (picture, *picture.findChildren(Canvas)) if isinstance(c, Canvas)]

    def show_place(self, station: Station, check: Check, place: CheckPlace) -> None:
        """Frame a place of a finding in a station's picture, its layer chosen."""
        if check.about and station is Station.LAYERS:
            self.section.choose(check.about)
        for canvas in self.canvases(station):
            if isinstance(canvas, PieceWorld):
                canvas.frame_place(place)

    def lead(self, check: Check) -> None:
        """Show the value that a finding is about, in the inspector of its station."""
        if check.about and check.station is Station.LAYERS:
            self.section.choose(check.about)
        self.show_value(check.station, LEADS.get(check.code, ()))

    def show_value(self, station: Station, names: Iterable[str]) -> None:
        """Show the first of some values that this job has, in the inspector of a station."""
        inspector = self.views[station].inspector
        self._workers.do_now(SEEN)
        field = inspector.first_of(names)
        if field is not None:
            inspector.reveal(field)

    def mark(self, station: Station, checks: Iterable[Check]) -> None:
        """Mark the things of a station with what was found in them.

        Parameters
        ----------
        station : that is shown; others are marked when they are
        checks : of all stations, the worst first
        """
        inspector = self.views[station].inspector
        here = [check for check in checks if check.station is station]
        inspector.mark(worst_of_things(inspector, here))

    def send_job(self) -> None:
        picture = self.views[Station.RUN].picture
        if isinstance(picture, RunPicture):
            picture.start()

    def values(self, visit: Callable[[Station], object]) -> list[Command]:
        """Every value by name; choosing one goes to it."""

        def go(station: Station, field: QWidget) -> None:
            visit(station)
            self.reveal(station, field)

        return [
            command
            for station, view in self.views.items()
            for command in values_of(
                view.inspector, say("Value, {station}", station=station.words), partial(go, station)
            )
        ]

    def reveal(self, station: Station, field: QWidget) -> None:
        """Unfold what hides a field of a station, and give it the keys."""
        self._workers.do_now(SEEN)
        self.views[station].inspector.reveal(field)
