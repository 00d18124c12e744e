"""The Run's inspector: how it is run, time, ink, cost, receiver, press, printer."""

from __future__ import annotations

from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QLineEdit, QMenu, QWidget

from farbe.checks.weight import Weight
from farbe.desk.amounts import parse_amount
from farbe.desk.fields import ChoiceField, TextField
from farbe.desk.following import Following
from farbe.desk.form import ElidedButton, Form
from farbe.desk.inspector import Inspector
from farbe.desk.pressdesk import PressDesk
from farbe.desk.stations.base import Desk
from farbe.desk.stations.part import Part
from farbe.desk.stations.run.conditionpart import ConditionPart
from farbe.desk.stations.run.printer import add_printer
from farbe.desk.stations.run.receiver import ReceiverPart
from farbe.desk.stations.run.runlist import RunPicture
from farbe.desk.stations.run.testprint import TestPrintPart
from farbe.desk.stations.run.watchpart import WatchPart
from farbe.desk.theme import area_of, drawn_at_scale, fixed, plain_font, theme
from farbe.desk.watchdesk import WatchDesk
from farbe.edits.values import lens
from farbe.estimate.cost import order_cost
from farbe.estimate.estimate import GUIDE, InkUse
from farbe.estimate.steps import Busy, Step, seconds_of
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, number
from farbe.model.base import BadInput
from farbe.model.receiver import Drive
from farbe.plan.order import channels
from farbe.plan.sentence import duration
from farbe.press.state import FAULTS
from farbe.said import begun, inside, say, spoken

_YES = ((True, say("yes")), (False, say("no")))
#: ml under which the press's panel names an ink.
LOW = 50.0


class QualityPart(Part):
    """Mode, one run or several, and how the printer goes about it; both ways compared."""

    NAME = say("How it is run")

    def build(self) -> None:
        form, session = self.form, self.session
        self._mode = ElidedButton()
        self._mode.setAccessibleName(say("Quality mode"))
        self._menu = QMenu(self._mode)
        self._menu.aboutToShow.connect(self._fill)
        self._mode.setMenu(self._menu)
        form.row(say("Mode"), self._mode)
        runs = [(False, say("in one run")), (True, say("in separate runs"))]
        form.row(say("Layers"), ChoiceField(session, say("Runs"), runs, *lens("running.separate")))
        minutes = (
            lambda j: j.running.dry / 60,
            lambda j, v: j.replace(running=j.running.replace(dry=v * 60)),
        )
        self._dry = self.numbers(
            say("Dry between"), (say("Drying time"), minutes), unit="min", digits=1
        )
        self._words = form.words()
        self._words.setAccessibleName(say("Both ways compared"))
        form.fold(say("Carriage and bed"))
        for words, path in (
            (say("Whole width"), "running.whole_width"), (say("Slow carriage"), "running.exact"),
            (say("Bed vacuum"), "running.vacuum"), (say("Both ways"), "printer.both_ways"),
        ):  # fmt: skip
            form.row(words, ChoiceField(session, words, list(_YES), *lens(path)))
        self.numbers(
            say("Register up to"), (say("Length that keeps register"), "running.register_length")
        )
        self.numbers(say("Passes"), (say("Passes"), "printer.passes"), unit="", digits=0)
        self.numbers(say("Speed"), (say("Carriage speed"), "printer.speed"), unit="mm/s", step=10)
        self.numbers(say("Head rows"), (say("Distance of head rows"), "printer.head_rows"))
        self.desk.results.findings_changed.connect(self._follow)
        self.refresh()

    def _fill(self) -> None:
        self._menu.clear()
        job = self.session.job
        for mode in job.printer.modes if job is not None else ():
            action = self._menu.addAction(
                say(
                    "{mode}: {dpi_x} × {dpi_y} dpi, {passes} passes, {throw} throw",
                    mode=begun(spoken(mode.name)),
                    dpi_x=number(mode.dpi_x),
                    dpi_y=number(mode.dpi_y),
                    passes=mode.passes,
                    throw=mode.throw.words,
                )
            )
            action.triggered.connect(lambda _=False, name=mode.name: self.use(name))

    def use(self, name: str) -> None:
        """Set the printer to the mode of a name."""

        def change(job: Faced) -> Faced:
            mode = next(mode for mode in job.printer.modes if mode.name == name)
            return job.replace(printer=job.printer.in_mode(mode))

        self.session.edit(say("Mode {name}", name=name), change)

    def refresh(self) -> None:
        job = self.session.first
        if job is None:
            return
        mode = job.printer.mode
        self._mode.setText(spoken(mode.name) if mode is not None else say("own settings"))
        self._mode.setEnabled(bool(job.printer.modes))
        self._dry.setVisible(job.running.separate)
        findings, lines = self.desk.results.findings, []
        for way in findings.ways if findings is not None else ():
            listed, waits = way.steps, seconds_of(way.steps, Busy.WAITING)
            dry = say(", {waits} drying", waits=duration(waits)) if waits else ""
            printing = duration(seconds_of(listed, Busy.PRINTING))
            whole = duration(sum(step.seconds for step in listed))
            lines.append(
                say(
                    "{way}: {printing} printing{dry}, {whole} in all; layers meet within "
                    "{register}",
                    way=begun(way.words),
                    printing=printing,
                    dry=dry,
                    whole=whole,
                    register=measure(round(way.register, 2)),
                )
            )
        self._words.setText("\n".join(lines))
        self.thing.say(say("separate runs") if job.running.separate else say("one run"))


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
        fixed(self, high=self.ROW * (count + 1))
        self.update()

    def paintEvent(self, _: QPaintEvent) -> None:
        findings, t = self._desk.results.findings, theme()
        if findings is None:
            return
        painter = QPainter(self)
        drawn_at_scale(painter)
        wide = area_of(self).width()
        painter.setFont(plain_font(13))
        colours = {}
        job = self._desk.session.first
        if job is not None:
            colours = {job.receiver.channel(ink.name): ink.shown for ink in job.printer.inks}
            # A second layer of an ink is a channel of another name.
            colours |= {channel.name: channel.ink.shown for channel in channels(job)}
            shown = {ink.name: ink.shown for ink in job.printer.inks}
            guides = (use for use in findings.estimate.inks if use.layer == GUIDE)
            colours |= {_ink_words(use): shown[use.ink] for use in guides if use.ink in shown}
        rows = [(_ink_words(use), use.ml, use.cost) for use in findings.estimate.inks]
        total = (say("Together"), sum(r[1] for r in rows), sum(r[2] for r in rows))
        for index, (name, ml, cost) in enumerate([*rows, total]):
            top = index * self.ROW
            last = index == len(rows)
            if last:
                painter.setFont(plain_font(13, bold=True))
                painter.setPen(QColor(t.line))
                painter.drawLine(QPointF(0, top), QPointF(wide, top))
            else:
                painter.setPen(QColor(t.line))
                painter.setBrush(QColor(colours.get(name, "#c8c8c8")))
                painter.drawRect(QRectF(0.5, top + 7.5, 10, 10))
            painter.setPen(QColor(t.text))
            middle = Qt.AlignmentFlag.AlignVCenter
            right = middle | Qt.AlignmentFlag.AlignRight
            painter.drawText(QRectF(0 if last else 20, top, 120, self.ROW), middle, name)
            painter.drawText(QRectF(110, top, 84, self.ROW), right, f"{decimal(ml, 2)} ml")
            money = f"{decimal(cost, 2)} {self._desk.currency}"
            painter.drawText(QRectF(196, top, wide - 196, self.ROW), right, money)
        painter.end()


class InkPart(Part):
    """How much of each ink is used."""

    NAME = say("Ink")

    def build(self) -> None:
        self.form.wide(InkTable(self.desk))
        self.desk.results.findings_changed.connect(self._follow)

    def refresh(self) -> None:
        findings = self.desk.results.findings
        if findings is not None:
            self.thing.say(f"{decimal(sum(use.ml for use in findings.estimate.inks), 2)} ml")


class CostPart(Part):
    """What it costs, and the price."""

    NAME = say("Cost and price")

    def build(self) -> None:
        form, desk = self.form, self.desk
        self.numbers(say("A piece"), (say("Price of a piece"), "prices.piece"),
                     unit=lambda: desk.currency, step=0.1)  # fmt: skip
        self.numbers(
            say("Work, machine"), (say("Price of an hour of work"), "prices.work_hour"),
            (say("Price of an hour of the machine"), "prices.machine_hour"),
            unit=lambda: f"{desk.currency}/h",
        )  # fmt: skip
        self.numbers(
            say("Waste, margin"),
            (say("Waste"), "prices.waste"),
            (say("Margin"), "prices.margin"),
            unit="%",
        )
        self._words = form.words()
        self._words.setAccessibleName(say("Cost and price"))
        self._handwork()
        self.desk.results.findings_changed.connect(self._follow)
        self.refresh()

    def _handwork(self) -> None:
        """What handwork takes here."""
        self.form.fold(say("Handwork"))
        for words, name, field, unit in (
            (say("A piece in"), say("Putting in a piece"), "place", "s"),
            (say("The height"), say("Setting the height"), "height", "s"),
            (say("Turning one"), say("Turning over a piece"), "turn", "s"),
            (say("Turning all"), say("Turning over a board"), "turn_board", "s"),
            (say("Loading film"), say("Loading film"), "load_film", "s"),
            (say("Turning film"), say("Turning film over"), "turn_film", "s"),
            (say("A cut"), say("Cutting a piece off"), "cut", "s"),
            (say("Powder, oven"), say("Readying powder and oven"), "powder", "s"),
            (say("Each metre"), say("Powder and oven for a metre"), "powder_metre", "s"),
            (say("A press"), say("A cycle of the press"), "press", "s"),
            (say("Pressed at once"), say("Transfers in a cycle of the press"), "at_once", ""),
        ):
            digits = 0 if field == "at_once" else 1
            self.numbers(words, (name, f"running.times.{field}"), unit=unit, digits=digits)

    def refresh(self) -> None:
        job, findings = self.session.first, self.desk.results.findings
        if job is None or findings is None:
            return
        cost, unit = order_cost(findings.estimate, findings.steps, job.prices), self.desk.currency
        self.thing.say(say("{each} {unit} each", each=decimal(cost.each, 2), unit=unit))
        parts = (
            (say("Ink"), cost.ink), (say("pieces"), cost.material), (say("work"), cost.work),
            (say("machine"), cost.machine), (say("waste"), cost.waste),
        )  # fmt: skip
        listed = ", ".join(f"{name} {decimal(money, 2)}" for name, money in parts)
        self._words.setText(
            say(
                "{listed}: {total} {unit}. With the margin {price} {unit}, {each} for each of "
                "{pieces}.",
                listed=listed,
                total=decimal(cost.total, 2),
                unit=unit,
                price=decimal(cost.price, 2),
                each=decimal(cost.each, 2),
                pieces=cost.pieces,
            )
        )


class PressPart(Part):
    """The test press: ready or why not, its inks, what can be set wrong."""

    NAME = say("Test press")

    def __init__(self, inspector: Inspector, desk: Desk, press: PressDesk) -> None:
        self.press = press
        self._amounts: tuple[QLineEdit, ...] = ()
        super().__init__(inspector, desk)
        press.changed.connect(self.refresh)

    def build(self) -> None:
        form = self.form
        self._words = form.words()
        self._words.setAccessibleName(say("State of the test press"))
        self._fault = ElidedButton(say("Faults"))
        self._menu = QMenu(self._fault)
        self._menu.aboutToShow.connect(self._fill)
        self._fault.setMenu(self._menu)
        form.wide(self._fault)
        self._on = form.button(say("Switch it on"), self._switch)
        form.button(say("Fill its tanks"), lambda: self.press.ask(do="fill"))
        form.button(
            say("Stop what prints"), lambda: self.press.ask(do="stop"), say("It can go on later")
        )
        self._film = form.row(
            say("Move film by"), *(self._mm(axis) for axis in (say("right"), say("away")))
        )
        self._moves = form.button(
            say("Move the film by hand"), self.move_film,
            say("Where the line behind a side A is not found; then go on in the queue"),
        )  # fmt: skip
        form.button(
            say("Load the job's board"), self.load, say("Tell the press what lies on its bed")
        )
        form.button(
            say("Take over its sizes"), self.take_over,
            say("The job gets the press's bed, and the board that is loaded on it"),
        )  # fmt: skip
        self.refresh()

    def _fill(self) -> None:
        self._menu.clear()
        state = self.press.state or {}
        for name in FAULTS:
            action = self._menu.addAction(begun(spoken(name)))
            action.setCheckable(True)
            action.setChecked(name in state.get("faults", ()))
            action.triggered.connect(
                lambda on, name=name: self.press.ask(do="fault", name=name, on=on)
            )
        self._menu.addSeparator()
        for ink in state.get("ink_ml", ()):
            self._menu.addAction(say("Empty the {ink}", ink=ink), partial(self._empty, ink))

    def _empty(self, ink: str, *_: object) -> None:
        self.press.ask(do="fill", ink=ink, ml=0.0)

    def _switch(self) -> None:
        self.press.ask(do="quit" if self.press.state else "status")

    def _mm(self, axis: str) -> QLineEdit:
        """A figure that is the operator's, not the job's."""
        made = QLineEdit("0")
        made.setAccessibleName(f"{say('Film {axis}', axis=axis)}, mm")
        made.setMinimumWidth(64)
        self._amounts = (*self._amounts, made)
        return made

    def move_film(self) -> None:
        """Lay side B by hand; what is not a length is said."""
        try:
            x, y = (parse_amount(field.text(), "mm") for field in self._amounts)
        except BadInput as error:
            self.session.said.emit(str(error))
            return
        self.press.ask(do="move", x=x, y=y)

    def load(self) -> None:
        """Load a board of the job's size."""
        job = self.session.first
        if job is not None:
            self.press.ask(do="load", width=job.jig.board.width, height=job.jig.board.height)

    def take_over(self) -> None:
        """Give the job the press's bed and the board that is loaded."""
        state = self.press.state
        if state is not None:
            self.session.edit(say("Sizes of the press"), partial(_with_sizes, state))

    def refresh(self) -> None:
        state, job = self.press.state, self.session.first
        # What is handed to a folder is printed by somebody else.
        self.thing.offer(job is None or job.receiver.drive is Drive.PRESS)
        two_sided = job is not None and job.roll is not None and job.two_sided
        for row in (self._film, self._moves):
            row.setVisible(two_sided)
        self._on.setText(say("Switch it off") if state else say("Switch it on"))
        self._fault.setEnabled(state is not None)
        if state is None:
            self.thing.say(say("off"))
            self._words.setText(say("It is off; it starts when something is printed."))
            return
        self.thing.say(say("ready") if state["ready"] else say("not ready"))
        lines = [] if state["ready"] else [state["why"]]
        on_bed = (
            say("{state} on its bed", state=state["job"])
            if state["job"]
            else say("nothing on its bed")
        )
        lines.append(
            say(
                "Heads at {state} °C, {on_bed}.", state=f"{state['temperature']:.0f}", on_bed=on_bed
            )
        )
        low = [f"{ink} {ml:.0f} ml" for ink, ml in state["ink_ml"].items() if ml < LOW]
        if low:
            lines.append(say("Low: {low}.", low=", ".join(low)))
        self._words.setText("\n".join(lines))


def _with_sizes(state: dict[str, Any], job: Faced) -> Faced:
    """The job on a press's bed and on the board that is loaded."""
    width, height = state["bed"]
    printer = job.printer.replace(
        bed_width=width, bed_height=height, max_piece_height=state["head_height"]
    )
    if state["board"] is None:
        return job.replace(printer=printer)
    wide, high = state["board"]
    board = job.jig.board.replace(width=wide, height=high)
    return job.replace(printer=printer, jig=job.jig.replace(board=board))


class FilesPart(Part):
    """The order's number, and what is written of the job."""

    NAME = say("Order and files")

    def build(self) -> None:
        form, desk = self.form, self.desk
        form.row(say("Order"), TextField(self.session, say("Number of the order"), *lens("order")))
        self.save = form.button(say("Write the hand-off…"), desk.exports.ask_hand_off)
        form.words(
            say("A hand-off is the folder of files, and a ticket that says what each one is.")
        )
        form.button(
            say("Write the run sheet…"),
            desk.exports.ask_run_sheet,
            say("Bed, steps, checks and inks as PDF"),
        )
        form.button(
            say("Write the estimate…"),
            desk.exports.ask_estimate,
            say("Ink, time and cost as JSON or CSV"),
        )

    def refresh(self) -> None:
        job = self.session.first
        if job is not None:
            self.thing.say(job.order or say("no number"))


class PrinterPart(Part):
    """The printer of the job."""

    NAME = say("Printer")

    def build(self) -> None:
        add_printer(self.form, self.desk)

    def refresh(self) -> None:
        job = self.session.first
        if job is not None:
            self.thing.say(spoken(job.printer.name))


class Start(Following, Form):
    """What the station is for: the time that the job takes, and the button that sends it."""

    SHOWN_LATER = True

    def __init__(self, desk: Desk, picture: RunPicture, files: FilesPart) -> None:
        super().__init__()
        self._desk, self._session, self._files = desk, desk.session, files
        self.layout().setContentsMargins(16, 12, 16, 10)  # type: ignore[union-attr]
        self._about = self.words()
        self.button_ = ElidedButton(say("Print on the test press"))
        self.button_.setProperty("primary", True)
        self.button_.clicked.connect(picture.start)
        self.wide(self.button_)
        self.follow(desk.session, desk.results.findings_changed)

    def refresh(self) -> None:
        job, findings = self._session.first, self._desk.results.findings
        if job is None:
            return
        listed = findings.steps if findings else ()
        printing = seconds_of(listed, Busy.PRINTING)
        whole = sum(step.seconds for step in listed)
        self._about.setText(
            say(
                "{printing} of printing, {whole} in all",
                printing=duration(printing),
                whole=duration(whole),
            )
        )
        stops = [c for c in findings.checks if c.weight is Weight.STOP] if findings else []
        to_press = job.receiver.drive is Drive.PRESS
        self.button_.setText(
            say("Print on the test press") if to_press else say("Hand to the receiver")
        )
        for button in (self.button_, self._files.save):
            button.setEnabled(not stops)
            button.setToolTip(stops[0].text if stops else "")


class RunInspector(Inspector):
    """What a run is made of."""

    def __init__(
        self, desk: Desk, press: PressDesk, watcher: WatchDesk, picture: RunPicture
    ) -> None:
        super().__init__(say("Run"))
        self.files = FilesPart(self, desk)
        self.quality = QualityPart(self, desk)
        self.ink = InkPart(self, desk)
        self.cost = CostPart(self, desk)
        self.receiver = ReceiverPart(self, desk)
        self.printer = PrinterPart(self, desk)
        self.condition = ConditionPart(self, desk)
        self.press = PressPart(self, desk, press)
        self.test_prints = TestPrintPart(self, desk, press)
        self.watched = WatchPart(self, desk, watcher)
        self.start = Start(desk, picture, self.files)
        self.above(self.start)
        picture.list.pointed_at.connect(self._pointed)

    def _pointed(self, step: Step) -> None:
        """Show where a step of the run list gets its figures from."""
        parts = {Busy.PRINTING: self.quality, Busy.WAITING: self.quality, Busy.HANDWORK: self.cost}
        self.choose(parts[step.kind].thing)


def _ink_words(use: InkUse) -> str:
    """What an ink is called in the list: its channel, or whose guide it prints."""
    return say("Guide, {ink}", ink=inside(spoken(use.ink))) if use.layer == GUIDE else use.channel
