"""A menu of named things: those that ship, those that are kept, and from and to files."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import Any, Generic, TypeVar, cast

from PySide6.QtWidgets import QFileDialog, QMenu, QWidget

from farbe.desk.session import Session
from farbe.files.document import keep, library, library_path, read_document, write_document
from farbe.folders import data_folder
from farbe.layout.faced import Faced
from farbe.model.base import BadInput, Value
from farbe.said import begun, say, spoken

Thing = TypeVar("Thing", bound=Value)


class KeptMenu(QMenu, Generic[Thing]):
    """One kind of thing; a subclass says what it is and how a job uses it."""

    #: Its word, the folder of those that are kept, and the end of its files' names.
    WORD = ""
    FOLDER = ""
    SUFFIX = ""
    #: What its files hold: the thing itself, or if it is ``WRAPPED`` a value with one field of
    #: the name ``WORD``.
    DOCUMENT: type[Value] = Value
    WRAPPED = True
    #: Whether what is taken from a file is kept too.
    KEEPS_FILES = False

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.aboutToShow.connect(self._fill)

    def shipped(self) -> tuple[Thing, ...]:
        """Those that come with Farbe."""
        raise NotImplementedError

    def of(self, job: Faced) -> Thing:
        """The job's own."""
        raise NotImplementedError

    def used(self, job: Faced, thing: Thing) -> Faced:
        """The job with another."""
        raise NotImplementedError

    def name(self, thing: Thing) -> str:
        return str(getattr(thing, "name"))  # noqa: B009  (each kind has one)

    def _read(self, path: Path) -> Value:
        return read_document(path, self.DOCUMENT, self.WORD)

    def _held(self, document: Value) -> Thing:
        found: Any = getattr(document, self.WORD) if self.WRAPPED else document
        return cast("Thing", found)

    def _document(self, thing: Thing) -> Value:
        return self.DOCUMENT.model_validate({self.WORD: thing}) if self.WRAPPED else thing

    def all(self) -> tuple[tuple[Thing, ...], tuple[str, ...]]:
        """Kept ones, then those that ship and have no kept namesake; unusable files."""
        found, unusable = library(data_folder() / self.FOLDER, self.SUFFIX, self._read)
        kept = tuple(self._held(document) for document in found)
        names = {self.name(thing) for thing in kept}
        return (*kept, *(s for s in self.shipped() if self.name(s) not in names)), unusable

    def _fill(self) -> None:
        self.clear()
        job = self._session.job
        if job is None:
            return
        found, unusable = self.all()
        for thing in found:
            self._entry(thing, job)
        for name in unusable:
            self.addAction(
                say("{name} holds no {word}", name=name, word=spoken(self.WORD))
            ).setEnabled(False)
        if self.isEmpty():
            self.addAction(say("No {word} is kept yet", word=spoken(self.WORD))).setEnabled(False)
        self.addSeparator()
        self._keep_entries(job)
        self.addAction(say("Import a {word}…", word=spoken(self.WORD)), self._import)
        self.addAction(say("Export this one…"), self._export)

    def _entry(self, thing: Thing, job: Faced) -> None:
        """One that can be chosen."""
        self.addAction(spoken(self.name(thing)), partial(self.use, thing))

    def _keep_entries(self, job: Faced) -> None:
        """How the job's own is kept."""
        self.addAction(
            say("Keep this one as {name}", name=spoken(self.name(self.of(job)))),
            lambda: self.keep(),
        )

    def use(self, thing: Thing, *_: object) -> None:
        """Give it to the job; checks say if the job no longer fits."""
        self._session.edit(
            say("Use {name}", name=spoken(self.name(thing))), lambda job: self.used(job, thing)
        )

    def keep(self, thing: Thing | None = None) -> None:
        """Keep the job's own, or another one, under its name; an older namesake gives way."""
        job = self._session.job
        if job is None:
            return
        made = self.of(job) if thing is None else thing
        folder, name = data_folder() / self.FOLDER, self.name(made)
        words = say("replaced") if library_path(folder, name, self.SUFFIX).exists() else say("kept")
        try:
            keep(self._document(made), name, folder, self.SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self._session.said.emit(
            say("The {word} {name} is {state}.", word=spoken(self.WORD), name=name, state=words)
        )

    def take_file(self, path: Path) -> None:
        """Give the job one from a file."""
        try:
            thing = self._held(self._read(path))
            if self.KEEPS_FILES:
                folder = data_folder() / self.FOLDER
                keep(self._document(thing), self.name(thing), folder, self.SUFFIX)
        except BadInput as error:
            self._session.said.emit(str(error))
            return
        self.use(thing)

    def save_file(self, path: Path) -> None:
        """Write the job's own to a file."""
        job = self._session.job
        if job is None:
            return
        try:
            write_document(self._document(self.of(job)), path)
        except BadInput as error:
            self._session.said.emit(str(error))

    def _import(self) -> None:
        kinds = say("Files of a {word} (*{suffix})", word=spoken(self.WORD), suffix=self.SUFFIX)
        name, _ = QFileDialog.getOpenFileName(self, begun(spoken(self.WORD)), "", kinds)
        if name:
            self.take_file(Path(name))

    def _export(self) -> None:
        kinds = say("Files of a {word} (*{suffix})", word=spoken(self.WORD), suffix=self.SUFFIX)
        start = f"{self.WORD}{self.SUFFIX}"
        name, _ = QFileDialog.getSaveFileName(self, begun(spoken(self.WORD)), start, kinds)
        if name:
            self.save_file(Path(name))
