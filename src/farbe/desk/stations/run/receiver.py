"""The receiver of a job: chosen, its files announced, its names for the inks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QFileDialog, QPushButton, QVBoxLayout, QWidget

from farbe.desk.fields import ChoiceField, TextField
from farbe.desk.form import Form, emptied
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

_FORMATS = (
    ((FileFormat.TIFF,), "TIFF"),
    ((FileFormat.PDF,), "PDF"),
    ((FileFormat.TIFF, FileFormat.PDF), "TIFF and PDF"),
)


class ReceiverMenu(KeptMenu[Receiver]):
    """The receivers that are kept or ship, and receivers from and to files."""

    WORD, FOLDER, SUFFIX, DOCUMENT = "receiver", "receivers", SUFFIX, ReceiverFile

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

    NAME = "Receiver"

    def build(self) -> None:
        form, session = self.form, self.session
        menu = QPushButton("Receivers")
        self.menu = ReceiverMenu(session, menu)
        menu.setMenu(self.menu)
        form.wide(menu)
        form.words("The receiver is the front end that gets the files, and how it wants them.")
        self._folder_part()
        self._files = form.words()
        self._files.setAccessibleName("Files that will be written")
        form.fold("Files and channels")
        for words, name, choices, path in (
            ("Files as", "File formats", _FORMATS, "receiver.formats"),
            ("A TIFF holds", "What a TIFF holds", [(s, s.value) for s in Split], "receiver.split"),
            ("Packed by", "TIFF compression", [(c, c.value) for c in Compression],
             "receiver.compression"),
            ("Solid is", "What means solid", [(False, "255"), (True, "0")], "receiver.inverted"),
            ("Mirroring by", "Mirroring by", [(False, "Farbe"), (True, "the receiver")],
             "receiver.mirrors"),
        ):  # fmt: skip
            form.row(words, ChoiceField(session, name, list(choices), *lens(path)))
        self._ways_part()
        form.fold("Names of the channels")
        names = QWidget()
        self._names = QVBoxLayout(names)
        self._names.setContentsMargins(0, 0, 0, 0)
        form.wide(names)
        self._inks: tuple[str, ...] = ()
        self.refresh()

    def _folder_part(self) -> None:
        """How files get to the front end."""
        form, session = self.form, self.session
        form.row("Driven by", ChoiceField(
            session, "What the printer is driven by",
            [(Drive.PRESS, "the test press"), (Drive.FOLDER, "a folder it watches")],
            *lens("receiver.drive"),
        ))  # fmt: skip
        folder = QPushButton("Choose")
        folder.setAccessibleName("Choose the folder that the receiver watches")
        folder.clicked.connect(self._ask_folder)
        self._folder = [
            form.row("Folder", TextField(session, "Folder of the receiver",
                                         *lens("receiver.folder")), folder),
            form.row("It finds", ChoiceField(
                session, "What it finds there", [(d, d.value) for d in Delivery],
                *lens("receiver.delivery"),
            )),
            form.row("Marks taken", TextField(session, "What it puts behind what it took",
                                              *lens("receiver.marker"))),
        ]  # fmt: skip

    def _ways_part(self) -> None:
        """What else a front end may want of the files."""
        form, session = self.form, self.session
        form.fold("How files are written")
        yes = [(True, "yes"), (False, "no")]
        for words, name, choices, path in (
            ("TIFF says inks", "How a TIFF says its inks", [(i, i.value) for i in Inks],
             "receiver.tiff.inks"),
            ("TIFF channels", "How channels of a TIFF lie",
             [(False, "side by side"), (True, "one after the other")], "receiver.tiff.planar"),
            ("Profile in TIFF", "Profile in the TIFF", yes, "receiver.tiff.profile"),
            ("PDF pages", "What a page of a PDF is",
             [(False, "the whole bed"), (True, "a piece")], "receiver.pdf.pieces"),
            ("Cut lines in PDF", "Cut lines in the PDF", yes, "receiver.pdf.cut"),
            ("Cutter's marks", "Marks for the cutter", yes, "receiver.pdf.cutter_marks"),
            ("Previews", "Pictures of the plates beside the files", yes, "receiver.previews"),
            ("Exchange ticket", "Ticket for other programs", yes, "receiver.exchange"),
        ):  # fmt: skip
            form.row(words, ChoiceField(session, name, list(choices), *lens(path)))
        form.row("TIFF samples", ChoiceField(
            session, "Samples of a TIFF", [(False, "8 bit"), (True, "1 bit, screened")],
            _is_screened, _with_screen,
        ))  # fmt: skip
        self._screen = [
            self.numbers("Ruling", ("Lines an inch", (_of_screen("ruling"), _set_screen("ruling"))),
                         unit="lpi", digits=0),
            self.numbers(
                "Angle", ("Angle of the screen", (_of_screen("angle"), _set_screen("angle"))),
                unit="°", digits=1,
            ),
        ]  # fmt: skip

    def _ask_folder(self) -> None:
        job = self.session.first
        start = job.receiver.folder if job is not None else ""
        folder = QFileDialog.getExistingDirectory(self.form, "Folder that is watched", start)
        if folder:
            self.session.edit(
                "Folder of the receiver",
                lambda j: j.replace(receiver=j.receiver.replace(folder=folder)),
            )

    def refresh(self) -> None:
        job = self.session.first
        if job is None:
            return
        self.thing.say(job.receiver.name)
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
                    self.session, f"Channel of {ink}", partial(_channel, ink),
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
            f"{file.name}: {', '.join(info.name for info in file.channels) or 'nothing'}"
            for run in runs(job)
            for file in planned_files(run)
        ]
    except BadInput as error:
        return str(error)
    return "\n".join(lines)
