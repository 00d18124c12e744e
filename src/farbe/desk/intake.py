"""Files, folders and pasted pictures on their way into the job."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from itertools import count
from pathlib import Path

import numpy as np
import numpy.typing as npt
from PySide6.QtCore import QMimeData, QObject, QUrl, Signal
from PySide6.QtGui import QImage

from farbe.apart.asking import ask
from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.desk.stations.recipemenu import import_recipe
from farbe.desk.workers import Workers
from farbe.edits.artwork import index_of, replaced, with_all, with_only_these
from farbe.edits.bed import with_change
from farbe.files.recipefile import lent
from farbe.follows.reading import Taken, added, at_pages, pasted
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, PageBox
from farbe.plan.newjob import job_for
from farbe.plan.spots import with_plates
from farbe.said import say

#: Why something from elsewhere is not taken.
ADDRESS = say("Addresses are not fetched; save the picture and drop its file.")
NOTHING = say("There is neither a picture nor a file to paste.")


def _pixels(picture: QImage) -> npt.NDArray[np.uint8]:
    """Straight RGBA, uint8 (h, w, 4)."""
    plain = picture.convertToFormat(QImage.Format.Format_RGBA8888)
    rows = np.frombuffer(plain.constBits(), np.uint8).reshape(plain.height(), plain.bytesPerLine())
    return rows[:, : 4 * plain.width()].reshape(plain.height(), plain.width(), 4).copy()


class Intake(QObject):
    """Reads what comes in, in a worker, and makes one edit of it."""

    #: Artwork was taken without a job: the new one, with what was guessed.
    began = Signal(object)

    def __init__(
        self, session: Session, workers: Workers, preferences: Preferences, parent: QObject
    ) -> None:
        super().__init__(parent)
        self._session, self._workers, self._preferences = session, workers, preferences
        # Each reading by itself: a second drop does not end the first.
        self._numbers = count()

    def add(self, paths: Iterable[Path], pocket: int | None = None) -> None:
        """Add files, and those in folders, in the order of their names.

        Without a job, one is made for them. With a pocket, the first is printed there.
        """

        def change(job: Faced, arts: Taken) -> Faced:
            made = with_all(job, arts)
            return made if pocket is None else with_change(made, {pocket}, artwork=arts[0].key)

        self._read(paths, say("Add artwork"), change)

    def replace_all(self, paths: Iterable[Path]) -> None:
        """Take files in place of all artworks of the job."""
        self._read(paths, say("Replace the artwork"), with_only_these)

    def replace(self, other: ArtworkFile, path: Path) -> None:
        """Take a file in place of one artwork; quantity and pockets stay."""
        self._read([path], say("Replace artwork"), lambda job, arts: replaced(job, other, arts[0]))

    def paste(self, data: QMimeData) -> None:
        """Add what is on the clipboard: files, or a picture."""
        if data.hasUrls():
            self.drop(data.urls())
        elif data.hasImage():
            picture = QImage(data.imageData())
            self._pasted(picture)
        elif data.hasText() and "://" in data.text():
            self._session.said.emit(ADDRESS)
        else:
            self._session.said.emit(NOTHING)

    def drop(self, urls: Sequence[QUrl], pocket: int | None = None) -> None:
        """Add what was dropped."""
        paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
        if len(paths) < len(urls):
            self._session.said.emit(ADDRESS)
        if paths:
            self.add(paths, pocket)

    def at_page(self, key: str, page: int, box: PageBox) -> None:
        """Read another page or box of an artwork's file."""
        job, store = self._session.job, self._session.store
        file = next((art for art in job.artworks if art.key == key), None) if job else None
        if job is None or file is None:
            return

        def put(made: ArtworkFile) -> None:
            def change(now: Faced) -> Faced:
                at, arts = index_of(now, file), now.artworks
                return with_plates(now.replace(artworks=(*arts[:at], made, *arts[at + 1 :])), made)

            self._session.edit(say("Page of the artwork"), change)

        self._workers.start(
            f"page {key}",
            lambda r: ask(at_pages, file, (page,), box, job, store, report=r)[0],
            self._session.for_this_job(put),
            title=say("Reading page {page}", page=page),
        )  # fmt: skip

    def all_pages(self, key: str, pages: int) -> None:
        """Take all pages of an artwork's file, each as an artwork of its own."""
        job, store = self._session.job, self._session.store
        file = next((art for art in job.artworks if art.key == key), None) if job else None
        if job is None or file is None:
            return
        others = [page for page in range(1, pages + 1) if page != file.page]

        def put(made: Taken) -> None:
            def change(now: Faced) -> Faced:
                index_of(now, file)
                taken = [art.copy_number for art in now.artworks if art.digest == file.digest]
                numbered = [art.replace(copy_number=max(taken) + at, quantity=1)
                            for at, art in enumerate(made, start=1)]  # fmt: skip
                return with_all(now, numbered)

            self._session.edit(say("All pages"), change)

        self._workers.start(
            f"page {key}",
            lambda r: ask(at_pages, file, others, None, job, store, report=r),
            self._session.for_this_job(put),
            title=say("Reading {pages} pages", pages=pages),
        )

    def _pasted(self, picture: QImage) -> None:
        if picture.isNull():
            self._session.said.emit(NOTHING)
            return
        pixels, store = _pixels(picture), self._session.store
        self._workers.start(
            f"artwork {next(self._numbers)}",
            lambda r: ask(pasted, pixels, store, report=r),
            self._session.for_this_job(
                lambda art: self._take(say("Paste artwork"), with_all, (art,))
            ),
            title=say("Taking the picture"),
        )

    def _read(
        self, paths: Iterable[Path], words: str, change: Callable[[Faced, Taken], Faced]
    ) -> None:
        store, given = self._session.store, list(paths)

        def put(made: tuple[Taken, list[str]]) -> None:
            arts, refused = made
            if arts:
                many = say("Add {arts} artworks", arts=len(arts)) if len(arts) > 1 else words
                self._take(many, change, arts)
            if refused:
                more = (
                    say(" ({refused} more could not be taken.)", refused=len(refused) - 1)
                    if refused[1:]
                    else ""
                )
                self._session.said.emit(refused[0] + more)

        title = (
            say("Reading {name}", name=given[0].name)
            if len(given) == 1
            else say("Reading {count} files", count=len(given))
        )
        self._workers.start(
            f"artwork {next(self._numbers)}", lambda r: ask(added, given, store, report=r),
            self._session.for_this_job(put), title=title,
        )  # fmt: skip

    def _take(self, words: str, change: Callable[[Faced, Taken], Faced], arts: Taken) -> None:
        """Make the edit; plates mean what plates of their names meant before."""
        known = tuple(self._remembered(art) for art in arts)
        if self._session.job is not None:
            self._session.edit(words, lambda job: change(job, known))
            return
        made = Faced(job_for(known, lent(import_recipe(), self._session.store)))
        for art in made.artworks:
            made = with_plates(made, art)
        self._session.begin(made.job)
        self.began.emit(made)

    def _remembered(self, art: ArtworkFile) -> ArtworkFile:
        uses = []
        for use in art.plates:
            meant = self._preferences.meaning(use.name)
            uses.append(use if meant is None else use.replace(meaning=meant, guessed=False))
        return art.replace(plates=tuple(uses))
