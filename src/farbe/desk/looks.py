"""What the Proof shows, worked out off the window's thread."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from farbe.apart.asking import ask
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.follows.looking import LookWanted, Scene, scene_near, scene_of
from farbe.follows.preview import Preview
from farbe.render.glimpse import Box
from farbe.separate.grid import Grid


class Looks(QObject):
    """Keeps a scene of the whole piece, and one of what is seen of it when zoomed in."""

    changed = Signal()

    def __init__(self, session: Session, results: Results, workers: Workers) -> None:
        super().__init__(results)
        self._session, self._results, self._workers = session, results, workers
        self.wanted = LookWanted()
        self.whole: Scene | None = None
        self.detail: Scene | None = None
        self._detail_of: tuple[Box, Grid] | None = None
        results.preview_changed.connect(self.refresh)

    def want(self, **fields: object) -> None:
        """Look at it otherwise."""
        self.wanted = replace(self.wanted, **fields)  # type: ignore[arg-type]
        self.refresh()

    def view(self, **fields: object) -> None:
        """Look from elsewhere, by another light, on another surface."""
        self.want(view=replace(self.wanted.view, **fields))  # type: ignore[arg-type]

    def refresh(self) -> None:
        """Work out the scene that is wanted; the former one stays until then."""
        preview, wanted, store = self._results.preview, self.wanted, self._session.store
        self.detail = None
        if self._is_other_piece(preview):
            # What was tried and compared was about the piece before.
            self.wanted = wanted = LookWanted(shown=wanted.shown)
        if preview is None:
            self.whole = None
            self.changed.emit()
        elif wanted == LookWanted():
            self._workers.cancel("look")
            self._show(Scene(preview, wanted, preview.look))
        else:
            self._workers.start(
                "look",
                lambda r: ask(scene_of, preview, wanted, store, at_once=True, report=r),
                # What is compared with what is wanted is what was asked for.
                lambda scene: self._show(replace(scene, part=preview, wanted=wanted)),
            )

    def _is_other_piece(self, preview: Preview | None) -> bool:
        if preview is None or self.whole is None:
            return False
        now, before = preview.job.piece, self.whole.part.job.piece
        return (now.name, now.shape) != (before.name, before.shape)

    def _show(self, scene: Scene) -> None:
        self.whole = scene
        if self._detail_of is not None:
            self.zoom(*self._detail_of)
        self.changed.emit()

    def zoom(self, box: Box, grid: Grid) -> None:
        """Work out a part of the piece on a finer grid."""
        preview, wanted, store = self._results.preview, self.wanted, self._session.store
        if preview is None:
            return
        self._detail_of, job = (box, grid), preview.job
        self._workers.start(
            "detail",
            lambda r: ask(scene_near, job, box, grid, wanted, store, at_once=True, report=r),
            lambda scene: self._show_detail(replace(scene, wanted=wanted)),
        )

    def _show_detail(self, scene: Scene) -> None:
        preview = self._results.preview
        if preview is not None and scene.part.job == preview.job and scene.wanted == self.wanted:
            self.detail = scene
            self.changed.emit()

    def leave_detail(self) -> None:
        """The whole is fine enough again."""
        self._workers.cancel("detail")
        self.detail = self._detail_of = None
