"""What the Proof shows, worked out off the window's thread."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QObject, Signal

from farbe.apart.asking import ask
from farbe.desk.closeup import CloseUp
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.follows.looking import LookWanted, Scene, scene_near, scene_of
from farbe.follows.preview import Preview
from farbe.layout.faced import Faced
from farbe.render.glimpse import Box
from farbe.render.raster import Report
from farbe.separate.grid import Grid


class Looks(QObject):
    """Keeps a scene of the whole piece, and one of what is seen of it when zoomed in."""

    changed = Signal()

    def __init__(self, session: Session, results: Results, workers: Workers) -> None:
        super().__init__(results)
        self._session, self._results, self._workers = session, results, workers
        self.wanted = LookWanted()
        self.whole: Scene | None = None
        self.close_up = CloseUp(self, results, workers, "detail", self._near)
        self.close_up.changed.connect(self.changed)
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
        self.close_up.drop()
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
        self.close_up.again()
        self.changed.emit()

    def _near(self, job: Faced, box: Box, grid: Grid) -> Callable[[Report], Scene]:
        """What works out a part of the piece on a finer grid."""
        wanted, store = self.wanted, self._session.store

        def work(report: Report) -> Scene:
            scene: Scene = ask(
                scene_near, job, box, grid, wanted, store, at_once=True, report=report
            )
            # What is compared with what is wanted is what was asked for.
            return replace(scene, wanted=wanted)

        return work

    @property
    def detail(self) -> Scene | None:
        """What is seen of the piece when zoomed in, once it is there."""
        return self.close_up.part
