"""Test prints: written or printed, and what is read from them taken into the job."""

from __future__ import annotations

import tempfile
from pathlib import Path

from PySide6.QtWidgets import QComboBox, QFileDialog, QLineEdit, QSizePolicy

from farbe.desk.inspector import Inspector
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.stations.part import Part
from farbe.render.raster import Report
from farbe.said import say
from farbe.testprint.chart import ChartKind
from farbe.testprint.kinds import make_chart
from farbe.testprint.reading import READINGS, with_reading
from farbe.testprint.write import write_test_print

_WORDS = {
    ChartKind.INKS: say("inks in their order"),
    ChartKind.NOZZLES: say("nozzle lines"),
    ChartKind.GREYS: say("greys and hues"),
    ChartKind.REGISTER: say("register, both ways"),
    ChartKind.CHOKE: say("ladder of chokes"),
    ChartKind.WHITE: say("ladder of white"),
    ChartKind.EASE: say("ladder of white under darks"),
    ChartKind.VARNISH: say("ladder of varnish hits"),
    ChartKind.KERB: say("ladder of kerb hits"),
}


class TestPrintPart(Part):
    """Test prints of the job's printer, and what is read from them."""

    __test__ = False  # for pytest: no test, in spite of the name

    NAME = say("Test prints")

    def __init__(self, inspector: Inspector, desk: Desk, press: PressDesk) -> None:
        self._press = press
        super().__init__(inspector, desk)

    def build(self) -> None:
        form = self.form
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
    def chosen(self) -> ChartKind:
        return ChartKind(self.kind.currentData())

    def refresh(self) -> None:
        self.thing.say(_WORDS[self.chosen])
        asked = READINGS.get(self.chosen)
        self._row.setVisible(asked is not None)
        self._take.setVisible(asked is not None)
        self._words.setText(
            say("Type {asked}.", asked=asked)
            if asked
            else say("It is looked at; nothing is typed in.")
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

        def work(report: Report) -> None:
            chart = make_chart(kind, job.printer, job.receiver, store.profile(job))
            write_test_print(chart, job.printer, job.receiver, folder, report=report)

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

        def work(report: Report) -> None:
            with tempfile.TemporaryDirectory(prefix="farbe-test-") as folder:
                chart = make_chart(kind, job.printer, job.receiver, store.profile(job))
                where = Path(folder)
                write_test_print(chart, job.printer, job.receiver, where, report=report)
                self._press.print_board(where)

        self.desk.workers.start(
            "test print", work, lambda _: self._press.look(), title=say("Printing the test print")
        )

    def take(self) -> None:
        """Put the reading into the layers of the job."""
        kind, text = self.chosen, self.figure.text().strip().replace(",", ".")
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
