"""Run: the steps in time order, the test press's bed, ink and time, the hand-off."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QPushButton, QWidget

from farbe.checks.check import Weight
from farbe.desk.fields import ChoiceField
from farbe.desk.form import Form
from farbe.desk.images import paint_picture
from farbe.desk.stations.base import Desk, StationView, scrolled
from farbe.desk.stations.printerform import add_printer
from farbe.desk.stations.worlds import BedWorld
from farbe.desk.theme import font, theme
from farbe.estimate.steps import Step, steps
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.model.job import Job
from farbe.model.receiver import Compression
from farbe.plan.sentence import duration
from farbe.press.client import Press
from farbe.render.raster import Report

#: Share of the progress that writing the files takes; the press takes the rest.
WRITING = 0.6


def print_on_press(
    job: Job, store: ArtStore, report: Report, step_done: Callable[[int, QImage], None]
) -> None:
    """Hand off to a fresh test press and print.

    ``step_done`` gets the number of each step, and the bed if it changed.

    Raises
    ------
    BadInput
        If the job cannot be handed off or the press refuses it.
    """
    with tempfile.TemporaryDirectory(prefix="farbe-run-") as folder:
        files = Path(folder) / "hand-off"
        hand_off(job, store, files, report=lambda x: report(x * WRITING))
        with Press() as press:
            press.send(files)
            todo = steps(job)
            for index, step in enumerate(todo):
                report(WRITING + (1 - WRITING) * index / len(todo))
                if step.run in ("place", "turn"):
                    press.ask(do=step.run)
                elif step.run is not None:
                    for _ in press.steps(do="print", run=step.run):
                        report(WRITING + (1 - WRITING) * index / len(todo))
                picture = Path(folder) / "bed.png"
                if step.run is not None:
                    press.ask(do="picture", path=str(picture))
                step_done(index, QImage(str(picture)) if step.run is not None else QImage())


class RunList(QWidget):
    """The steps in time order; done ones are ticked."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.done = 0
        self.running = False
        self.setFixedWidth(262)
        self.setAccessibleName("Run list")
        desk.session.changed.connect(self.update)

    def steps(self) -> tuple[Step, ...]:
        job = self._desk.session.whole
        return steps(job) if job else ()

    def paintEvent(self, _: QPaintEvent) -> None:
        t = theme()
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(t.paper))
        painter.setPen(QColor(t.line))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        painter.setFont(font(13, bold=True))
        painter.setPen(QColor(t.text))
        painter.drawText(QPointF(16, 28), "Run list")
        top = 48.0
        listed = self.steps()
        for index, step in enumerate(listed):
            centre = QPointF(28, top + 14)
            if index < len(listed) - 1:
                painter.setPen(QPen(QColor(t.line), 1.4))
                painter.drawLine(centre + QPointF(0, 11), centre + QPointF(0, 43))
            done, now = index < self.done, self.running and index == self.done
            painter.setPen(QPen(QColor(t.accent if done or now else t.faint), 1.6))
            painter.setBrush(QColor(t.accent) if done else QColor(t.field))
            painter.drawEllipse(centre, 9, 9)
            if done:
                painter.setPen(QPen(QColor(t.on_accent), 1.8))
                painter.drawPolyline(
                    [
                        centre + QPointF(-4, 0),
                        centre + QPointF(-1, 3.4),
                        centre + QPointF(4.4, -3.4),
                    ]
                )
            else:
                painter.setFont(font(11))
                painter.drawText(
                    QRectF(centre.x() - 9, centre.y() - 9, 18, 18),
                    Qt.AlignmentFlag.AlignCenter,
                    str(index + 1),
                )
            painter.setFont(font(13, bold=now))
            painter.setPen(QColor(t.text))
            painter.drawText(QPointF(48, top + 13), step.text)
            painter.setFont(font(12))
            painter.setPen(QColor(t.faint))
            time = QRectF(self.width() - 90, top, 76, 18)
            right = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
            painter.drawText(time, right, duration(step.seconds))
            words = painter.fontMetrics().elidedText(
                step.detail, Qt.TextElideMode.ElideRight, self.width() - 62
            )
            painter.drawText(QPointF(48, top + 31), words)
            top += 54
        painter.end()


class PressCanvas(BedWorld):
    """The test press's bed from above."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.picture: QImage | None = None
        self.caption = ""
        self.setAccessibleName("The test press's bed")
        desk.session.changed.connect(self.refit)

    def frame(self) -> QRectF:
        return QRectF(self.rect()).adjusted(18, 40, -18, -18)

    def show_picture(self, picture: QImage | None, caption: str) -> None:
        self.picture, self.caption = picture, caption
        self.update()

    def paint_world(self, painter: QPainter) -> None:
        job = self._desk.session.whole
        if job is None:
            return
        bed = self.box(0, 0, job.printer.bed_width, job.printer.bed_height)
        if self.picture is not None:
            paint_picture(painter, bed, self.picture)
        else:
            painter.fillRect(bed, QColor("#3b3b3b"))
            painter.setPen(QColor("#e8e8e8"))
            painter.setFont(font(14))
            painter.drawText(
                bed,
                Qt.AlignmentFlag.AlignCenter,
                "The bed is empty.\nPrint on the test press to see what will come out.",
            )
        painter.setPen(QPen(QColor("#262626"), 1.2))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bed)
        painter.setFont(font(12.5))
        painter.setPen(QColor("#f4f4f4"))
        painter.drawText(QPointF(18, 26), self.caption or "The test press, from above")


class InkTable(QWidget):
    """Ink of each channel in ml and money."""

    ROW = 24

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        desk.results.findings_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        findings = self._desk.results.findings
        count = len(findings.estimate.inks) if findings else 0
        self.setFixedHeight(self.ROW * (count + 1))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        findings, t = self._desk.results.findings, theme()
        if findings is None:
            return
        painter = QPainter(self)
        painter.setFont(font(13))
        colours = {}
        job = self._desk.session.whole
        if job is not None:
            colours = {job.receiver.channel(ink.name): ink.shown for ink in job.printer.inks}
        rows = [(use.channel, use.ml, use.cost) for use in findings.estimate.inks]
        total = ("Together", sum(r[1] for r in rows), sum(r[2] for r in rows))
        for index, (name, ml, cost) in enumerate([*rows, total]):
            top = index * self.ROW
            last = index == len(rows)
            if last:
                painter.setFont(font(13, bold=True))
                painter.setPen(QColor(t.line))
                painter.drawLine(0, top, self.width(), top)
            else:
                painter.setPen(QColor(t.line))
                painter.setBrush(QColor(colours.get(name, "#c8c8c8")))
                painter.drawRect(QRectF(0.5, top + 7.5, 10, 10))
            painter.setPen(QColor(t.text))
            middle = Qt.AlignmentFlag.AlignVCenter
            right = middle | Qt.AlignmentFlag.AlignRight
            painter.drawText(QRectF(0 if last else 20, top, 120, self.ROW), middle, name)
            painter.drawText(QRectF(110, top, 84, self.ROW), right, f"{ml:.2f} ml")
            money = f"{cost:.2f} {self._desk.currency}"
            painter.drawText(QRectF(196, top, self.width() - 196, self.ROW), right, money)
        painter.end()


class RunPicture(QWidget):
    """The run list beside the press's bed."""

    step_done = Signal(int, QImage)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.list, self.canvas = RunList(desk), PressCanvas(desk)
        self._desk = desk
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.list)
        row.addWidget(self.canvas, 1)
        self.step_done.connect(self._show_step)
        self._printed: Job | None = None
        desk.session.changed.connect(self._job_changed)
        desk.workers.ended.connect(self._ended)

    def start(self) -> None:
        """Print the job on the test press."""
        job, store = self._desk.session.whole, self._desk.session.store
        if job is None:
            return
        self._printed = job
        self.list.done, self.list.running = 0, True
        self.canvas.show_picture(None, "")
        self._desk.workers.start(
            "press",
            lambda report: print_on_press(job, store, report, self.step_done.emit),
            lambda _: None,
            title="Printing on the test press",
        )

    def _show_step(self, index: int, picture: QImage) -> None:
        if self._printed is not self._desk.session.whole:
            return
        self.list.done = index + 1
        self.list.update()
        if not picture.isNull():
            done = self.list.steps()[index].text.lower()
            self.canvas.show_picture(picture, f"The test press's bed from above, after: {done}")

    def _job_changed(self) -> None:
        if self._printed is not None and self._printed is not self._desk.session.whole:
            self._printed = None
            self._desk.workers.cancel("press")
            self.list.done = 0
            self.canvas.show_picture(None, "")

    def _ended(self, _: object) -> None:
        if not self._desk.workers.busy("press"):
            self.list.running = False
            self.list.update()


def run_station(desk: Desk) -> StationView:
    """The station's picture and inspector."""
    session, picture = desk.session, RunPicture(desk)
    form = Form()
    form.title("Run", "one run with all inks")
    start = QPushButton("Print on the test press")
    start.setProperty("primary", True)
    start.clicked.connect(picture.start)
    form.wide(start)
    save = QPushButton("Write the hand-off…")
    form.wide(save)
    form.head("Time")
    times = form.words()
    form.head("Ink")
    form.wide(InkTable(desk))
    add_printer(form, session)
    form.head("Receiver")
    receiver = form.words()
    form.row(
        "Mirroring by",
        ChoiceField(
            session,
            "Mirroring by",
            [(False, "Farbe"), (True, "the receiver")],
            lambda j: j.receiver.mirrors,
            lambda j, v: j.replace(receiver=j.receiver.replace(mirrors=v)),
        ),
    )
    form.row(
        "TIFF packed by",
        ChoiceField(
            session,
            "TIFF compression",
            [(c, c.value) for c in Compression],
            lambda j: j.receiver.compression,
            lambda j, v: j.replace(receiver=j.receiver.replace(compression=v)),
        ),
    )

    def write(folder: str) -> None:
        job, store = session.whole, session.store
        if job is None or not folder:
            return
        desk.workers.start(
            "hand-off",
            lambda report: hand_off(job, store, Path(folder), report=report),
            lambda ticket: session.said.emit(
                f"The hand-off is in {folder}: {len(ticket.runs)} runs and the ticket."
            ),
            title="Writing the hand-off",
        )

    save.clicked.connect(
        lambda: write(QFileDialog.getExistingDirectory(save, "Folder for the hand-off"))
    )

    def refresh() -> None:
        job, findings = session.whole, desk.results.findings
        if job is None:
            return
        listed = steps(job)
        printing = sum(s.seconds for s in listed if s.run not in (None, "place", "turn"))
        whole = sum(s.seconds for s in listed)
        times.setText(f"{duration(printing)} of printing, {duration(whole)} with placing")
        names = ", ".join(f.value.upper() for f in job.receiver.formats)
        receiver.setText(f"{job.receiver.name} takes {names}, one channel for each ink.")
        stops = [c for c in findings.checks if c.weight is Weight.STOP] if findings else []
        for button in (start, save):
            button.setEnabled(not stops)
            button.setToolTip(stops[0].text if stops else "")

    session.changed.connect(refresh)
    desk.results.findings_changed.connect(refresh)
    refresh()
    return StationView(picture, scrolled(form))
