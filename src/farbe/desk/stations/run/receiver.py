"""The receiver of a job: chosen, its files announced, its names for the inks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField, TextField
from farbe.desk.form import ElidedButton, Form, emptied
from farbe.desk.keptmenu import KeptMenu
from farbe.desk.stations.part import Part
from farbe.edits.values import lens
from farbe.estimate.runs import runs
from farbe.files.handoff import planned_files
from farbe.files.receiverfile import SUFFIX, ReceiverFile
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.receiver import (
    Compression,
    Delivery,
    Drive,
    FileFormat,
    Inks,
    Receiver,
    Screen,
    Split,
)
from farbe.plan.receivers import RECEIVERS
from farbe.said import say, shipped, spoken

_FORMATS = (
    ((FileFormat.TIFF,), "TIFF"),
    ((FileFormat.PDF,), "PDF"),
    ((FileFormat.TIFF, FileFormat.PDF), say("TIFF and PDF")),
)


class ReceiverMenu(KeptMenu[Receiver]):
    """The receivers that are kept or ship, and receivers from and to files."""

    WORD, FOLDER, SUFFIX, DOCUMENT = shipped("receiver"), "receivers", SUFFIX, ReceiverFile

    def shipped(self) -> tuple[Receiver, ...]:
        return RECEIVERS

    def of(self, job: Faced) -> Receiver:
        return job.receiver

    def used(self, job: Faced, thing: Receiver) -> Faced:
        return job.replace(receiver=thing)


def with_channel(job: Faced, ink: str, name: str) -> Faced:
    """The job whose receiver wants a name for the channel of an ink."""
    kept = tuple(pair for pair in job.receiver.channel_names if pair[0] != ink)
    names = kept if name == ink else (*kept, (ink, name))
    return job.replace(receiver=job.receiver.replace(channel_names=names))


class ReceiverPart(Part):
    """Which front end gets the files, and how it wants them."""

    NAME = say("Receiver")

    def build(self) -> None:
        form, session = self.form, self.session
        menu = ElidedButton(say("Receivers"))
        self.menu = ReceiverMenu(session, menu)
        menu.setMenu(self.menu)
        form.wide(menu)
        form.words(say("The receiver is the front end that gets the files, and how it wants them."))
        self._folder_part()
        self._files = form.words()
        self._files.setAccessibleName(say("Files that will be written"))
        form.fold(say("Files and channels"))
        for words, name, choices, path in (
            (say("Files as"), say("File formats"), _FORMATS, "receiver.formats"),
            (
                say("A TIFF holds"),
                say("What a TIFF holds"),
                [(s, s.words) for s in Split],
                "receiver.split",
            ),
            (
                say("Packed by"),
                say("TIFF compression"),
                [(c, c.words) for c in Compression],
                "receiver.compression",
            ),
            (
                say("Solid is"),
                say("What means solid"),
                [(False, "255"), (True, "0")],
                "receiver.inverted",
            ),
            (
                say("Mirroring by"),
                say("Mirroring by"),
                [(False, "Farbe"), (True, say("the receiver"))],
                "receiver.mirrors",
            ),
        ):
            form.row(words, ChoiceField(session, name, list(choices), *lens(path)))
        self._ways_part()
        form.fold(say("Names of the channels"))
        names = QWidget()
        self._names = QVBoxLayout(names)
        self._names.setContentsMargins(0, 0, 0, 0)
        form.wide(names)
        self._inks: tuple[str, ...] = ()
        self.refresh()

    def _folder_part(self) -> None:
        """How files get to the front end."""
        form, session = self.form, self.session
        form.row(say("Driven by"), ChoiceField(
            session, say("What the printer is driven by"),
            [(Drive.PRESS, say("the test press")), (Drive.FOLDER, say("a folder it watches"))],
            *lens("receiver.drive"),
        ))  # fmt: skip
        folder = ElidedButton(say("Choose"))
        folder.setAccessibleName(say("Choose the folder that the receiver watches"))
        folder.clicked.connect(self._ask_folder)
        self._folder = [
            form.row(say("Folder"), TextField(session, say("Folder of the receiver"),
                                         *lens("receiver.folder")), folder),
            form.row(say("It finds"), ChoiceField(
                session, say("What it finds there"), [(d, d.words) for d in Delivery],
                *lens("receiver.delivery"),
            )),
            form.row(say("Marks taken"), TextField(session, say("What it puts behind what it took"),
                                              *lens("receiver.marker"))),
        ]  # fmt: skip

    def _ways_part(self) -> None:
        """What else a front end may want of the files."""
        form, session = self.form, self.session
        form.fold(say("How files are written"))
        yes = [(True, say("yes")), (False, say("no"))]
        for words, name, choices, path in (
            (
                say("TIFF says inks"),
                say("How a TIFF says its inks"),
                [(i, i.words) for i in Inks],
                "receiver.tiff.inks",
            ),
            (
                say("TIFF channels"),
                say("How channels of a TIFF lie"),
                [(False, say("side by side")), (True, say("one after the other"))],
                "receiver.tiff.planar",
            ),
            (say("Profile in TIFF"), say("Profile in the TIFF"), yes, "receiver.tiff.profile"),
            (
                say("PDF pages"),
                say("What a page of a PDF is"),
                [(False, say("the whole bed")), (True, say("a piece"))],
                "receiver.pdf.pieces",
            ),
            (say("Cut lines in PDF"), say("Cut lines in the PDF"), yes, "receiver.pdf.cut"),
            (say("Cutter's marks"), say("Marks for the cutter"), yes, "receiver.pdf.cutter_marks"),
            (
                say("Previews"),
                say("Pictures of the plates beside the files"),
                yes,
                "receiver.previews",
            ),
            (say("Exchange ticket"), say("Ticket for other programs"), yes, "receiver.exchange"),
        ):
            form.row(words, ChoiceField(session, name, list(choices), *lens(path)))
        form.row(
            say("TIFF samples"),
            ChoiceField(
                session,
                say("Samples of a TIFF"),
                [(False, say("8 bit")), (True, say("1 bit, screened"))],
                _is_screened,
                _with_screen,
            ),
        )
        self._screen = [
            self.numbers(
                say("Ruling"),
                (say("Lines an inch"), (_of_screen("ruling"), _set_screen("ruling"))),
                unit="lpi",
                digits=0,
            ),
            self.numbers(
                say("Angle"),
                (say("Angle of the screen"), (_of_screen("angle"), _set_screen("angle"))),
                unit="°",
                digits=1,
            ),
        ]

    def _ask_folder(self) -> None:
        job = self.session.first
        start = job.receiver.folder if job is not None else ""
        folder = QFileDialog.getExistingDirectory(self.form, say("Folder that is watched"), start)
        if folder:
            self.session.edit(
                say("Folder of the receiver"),
                lambda j: j.replace(receiver=j.receiver.replace(folder=folder)),
            )

    def refresh(self) -> None:
        job = self.session.first
        if job is None:
            return
        self.thing.say(spoken(job.receiver.name))
        for row in self._folder:
            row.setVisible(job.receiver.drive is Drive.FOLDER)
        for row in self._screen:
            row.setVisible(job.receiver.tiff.screen is not None)
        inks = tuple(ink.name for ink in job.printer.inks)
        if inks != self._inks:
            self._inks = inks
            self._name_rows(inks)
        self._files.setText(announced(job))

    def _name_rows(self, inks: tuple[str, ...]) -> None:
        """A row for each ink of the printer."""
        emptied(self._names)
        rows = Form()
        rows.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        for ink in inks:
            rows.row(
                ink,
                TextField(
                    self.session, say("Channel of {ink}", ink=spoken(ink)), partial(_channel, ink),
                    partial(_put_channel, ink),
                ),
            )  # fmt: skip
        self._names.addWidget(rows)


def _is_screened(job: Faced) -> bool:
    return job.receiver.tiff.screen is not None


def _with_screen(job: Faced, wanted: bool) -> Faced:
    tiff = job.receiver.tiff.replace(screen=Screen() if wanted else None)
    return job.replace(receiver=job.receiver.replace(tiff=tiff))


def _of_screen(field: str) -> Callable[[Faced], float]:
    return lambda job: getattr(job.receiver.tiff.screen or Screen(), field)


def _set_screen(field: str) -> Callable[[Faced, float], Faced]:
    def put(job: Faced, value: float) -> Faced:
        screen = (job.receiver.tiff.screen or Screen()).replace(**{field: value})
        tiff = job.receiver.tiff.replace(screen=screen)
        return job.replace(receiver=job.receiver.replace(tiff=tiff))

    return put


def _channel(ink: str, job: Faced) -> str:
    return job.receiver.channel(ink)


def _put_channel(ink: str, job: Faced, name: str) -> Faced:
    return with_channel(job, ink, name)


def announced(job: Faced) -> str:
    """Every file that a hand-off will hold, with its channels as they will be named."""
    try:
        lines = [
            f"{file.name}: {', '.join(info.name for info in file.channels) or say('nothing')}"
            for run in runs(job)
            for file in planned_files(run)
        ]
    except BadInput as error:
        return str(error)
    return "\n".join(lines)
