"""What is in view of a piece, finer than the picture of all of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Generic, TypeVar

from PySide6.QtCore import QObject, Signal

from farbe.desk.results import Results
from farbe.desk.workers import Workers
from farbe.layout.faced import Faced
from farbe.render.glimpse import Box
from farbe.render.raster import Report
from farbe.separate.grid import Grid

Part = TypeVar("Part")


class CloseUp(QObject, Generic[Part]):
    """Keeps a part of the piece that is shown on a finer grid, off the window's thread.

    Parameters
    ----------
    parent : owns it
    results : whose picture is of all of the piece
    workers : that do the work
    key : of the work
    asked : makes the work: of a job, a part in mm and a grid
    """

    changed = Signal()

    def __init__(
        self,
        parent: QObject,
        results: Results,
        workers: Workers,
        key: str,
        asked: Callable[[Faced, Box, Grid], Callable[[Report], Part]],
    ) -> None:
        super().__init__(parent)
        self.part: Part | None = None
        #: Of which job it is, or will be.
        self.of: Faced | None = None
        self._wanted: tuple[Box, Grid] | None = None
        self._results, self._workers, self._key, self._asked = results, workers, key, asked

    def zoom(self, box: Box, grid: Grid) -> None:
        """Work out a part on a grid, unless it is there or on its way; another stays until then."""
        preview = self._results.preview
        if preview is None or (self._wanted == (box, grid) and self.of == preview.job):
            return
        self._wanted, self.of = (box, grid), preview.job
        self._workers.start(self._key, self._asked(preview.job, box, grid), self._show)

    def _show(self, part: Part) -> None:
        self.part = part
        self.changed.emit()

    def again(self) -> None:
        """Work out anew what was wanted last, if anything was."""
        if self._wanted is not None:
            self.zoom(*self._wanted)

    def drop(self) -> None:
        """Drop what is there, or under way; the same part stays wanted."""
        self._workers.cancel(self._key)
        self.part = self.of = None

    def leave(self) -> None:
        """The picture of all of it is fine enough."""
        self.drop()
        self._wanted = None
