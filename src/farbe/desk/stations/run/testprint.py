"""Test prints: written or printed, and what is read from them taken into the job."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PySide6.QtWidgets import (
    QComboBox,
    QFileDialog,
    QLineEdit,
    QSizePolicy,
    QSpinBox,
    QWidget,
)

from farbe.desk.form import Form
from farbe.desk.inspector import Inspector
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.stations.part import Part
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.measure.choose import FEWEST, MOST
from farbe.model.printer import LayerKind
from farbe.optics.patches import MOST_WHITE
from farbe.render.raster import Report
from farbe.said import say
from farbe.testprint.chart import ChartKind
from farbe.testprint.charts import ChartWishes, write_chart
from farbe.testprint.kinds import make_chart
from farbe.testprint.measured import Manner
from farbe.testprint.reading import READINGS, with_reading
from farbe.testprint.write import write_test_print

#: What is measured, among the kinds of test prints.
CHART, STRIP = "chart", "strip"
_WORDS: dict[str, str] = {
    ChartKind.INKS: say("inks in their order"),
    ChartKind.NOZZLES: say("nozzle lines"),
    ChartKind.GREYS: say("greys and hues"),
    ChartKind.REGISTER: say("register, both ways"),
    ChartKind.CHOKE: say("ladder of chokes"),
    ChartKind.WHITE: say("ladder of white"),
    ChartKind.EASE: say("ladder of white under darks"),
    ChartKind.VARNISH: say("ladder of varnish hits"),
    ChartKind.KERB: say("ladder of kerb hits"),
    CHART: say("chart that is measured"),
    STRIP: say("control strip"),
}


class ChartFields:
    """What chart is wanted: how many colours, on how much white, read how."""

    def __init__(self) -> None:
        self.colours, self.white = QSpinBox(), QSpinBox()
        self.colours.setRange(FEWEST, MOST)
        self.colours.setValue(500)
        self.colours.setSingleStep(100)
        self.colours.setAccessibleName(say("Colours of the chart"))
        self.white.setRange(0, MOST_WHITE)
        self.white.setValue(1)
        self.white.setAccessibleName(say("Hits of white behind the chart's colours"))
        self.manner = QComboBox()
        self.manner.setAccessibleName(say("How the chart is read"))
        for one in Manner:
            self.manner.addItem(one.words, one)

    def add_to(self, form: Form) -> list[QWidget]:
        """Its rows."""
        return [
            form.row(say("Colours"), self.colours),
            form.row(say("On white, hits"), self.white),
            form.row(say("Read"), self.manner),
        ]

    def wishes(self, job: Faced, *, strip: bool) -> ChartWishes:
        """The chart, or the strip, for a job's surface and reader."""
        has_white = bool(job.printer.inks_of(LayerKind.WHITE))
        return ChartWishes(
            job.piece.surface, job.reader, 0 if strip else self.colours.value(),
            self.white.value() if has_white else 0, self.manner.currentData(),
            film=job.roll is not None,
        )  # fmt: skip


def _write(
    kind: ChartKind | None, wishes: ChartWishes, job: Faced, store: ArtStore, folder: Path,
    report: Report,
) -> None:  # fmt: skip
    """Write the files of a test print, or of a chart."""
    printer, receiver, profile = job.printer, job.receiver, store.profile(job)
    if kind is None:
        write_chart(wishes, printer, receiver, profile, folder, report=report)
        return
    chart = make_chart(kind, printer, receiver, profile)
    write_test_print(chart, printer, receiver, folder, report=report)


class TestPrintPart(Part):
    """Test prints of the job's printer, and what is read from them."""

    __test__ = False  # for pytest: no test, in spite of the name

    NAME = say("Test prints")

    def __init__(self, inspector: Inspector, desk: Desk, press: PressDesk) -> None:
        self._press = press
        super().__init__(inspector, desk)

    def build(self) -> None:
        form = self.form
        self.fields = ChartFields()
        self.kind = QComboBox()
        self.kind.setAccessibleName(say("Test print"))
        self.kind.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.kind.setMinimumContentsLength(6)
        for kind, words in _WORDS.items():
            self.kind.addItem(words, kind)
        self.kind.currentIndexChanged.connect(lambda _: self.refresh())
        self.kind.currentTextChanged.connect(self.kind.setToolTip)
        self.kind.setToolTip(self.kind.currentText())
        form.row(say("Kind"), self.kind)
        self._chart_rows = self.fields.add_to(form)
        form.button(
            say("Write its files…"), self._ask, say("A hand-off for this printer and receiver")
        )
        form.button(say("Print it on the test press"), self.print_now)
        self.figure = QLineEdit()
        self.figure.setAccessibleName(say("Reading of the ladder"))
        self._row = form.row(say("Read"), self.figure)
        self._take = form.button(say("Take the reading over"), self.take)
        self._words = form.words()
        self.refresh()

    @property
    def chosen(self) -> ChartKind | None:
        """The kind of test print; None is a chart or a strip that is measured."""
        found = self.kind.currentData()
        return None if found in (CHART, STRIP) else ChartKind(found)

    def refresh(self) -> None:
        kind = self.chosen
        self.thing.say(_WORDS[self.kind.currentData()])
        colours, *others = self._chart_rows
        colours.setVisible(self.kind.currentData() == CHART)
        for row in others:
            row.setVisible(kind is None)
        asked = None if kind is None else READINGS.get(kind)
        self._row.setVisible(asked is not None)
        self._take.setVisible(asked is not None)
        self._words.setText(
            say("Type {asked}.", asked=asked)
            if asked
            else say("It is looked at; nothing is typed in.")
            if kind is not None
            else say("It is measured by a device; take its readings at Conditions.")
        )

    def _ask(self) -> None:
        folder = QFileDialog.getExistingDirectory(self.form, say("Folder for the test print"))
        if folder:
            self.write(Path(folder))

    def write(self, folder: Path) -> None:
        """Write the files of the chosen test print for the job's printer and receiver."""
        job, store, kind = self.session.first, self.session.store, self.chosen
        if job is None:
            return
        wishes = self.fields.wishes(job, strip=self.kind.currentData() == STRIP)

        def work(report: Report) -> None:
            _write(kind, wishes, job, store, folder, report)

        self.desk.workers.start(
            "test print",
            work,
            lambda _: self.session.said.emit(say("The test print is in {folder}.", folder=folder)),
            title=say("Writing the test print"),
        )

    def print_now(self) -> None:
        """Print the chosen test print on the test press."""
        job, store, kind = self.session.first, self.session.store, self.chosen
        if job is None:
            return
        wishes = self.fields.wishes(job, strip=self.kind.currentData() == STRIP)

        def work(report: Report) -> None:
            with tempfile.TemporaryDirectory(prefix="farbe-test-") as folder:
                where = Path(folder) / "print"
                _write(kind, wishes, job, store, where, report)
                self._press.print_board(where, job.printer.name)

        self.desk.workers.start(
            "test print", work, lambda _: self._press.look(), title=say("Printing the test print")
        )

    def take(self) -> None:
        """Put the reading into the layers of the job."""
        kind, text = self.chosen, self.figure.text().strip().replace(",", ".")
        if kind is None:
            return
        try:
            value = float(text)
        except ValueError:
            self.session.said.emit(
                say("“{text}” is no figure; type what you read from the ladder.", text=text)
            )
            return

        self.session.edit(
            say("Reading of a ladder"),
            lambda job: job.replace(stack=with_reading(job.stack, kind, value)),
        )
