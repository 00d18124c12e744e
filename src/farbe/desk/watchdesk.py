"""A folder that is watched while the window is open; what is dropped there goes to the queue."""

from __future__ import annotations

import time
from contextlib import closing
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.desk.stations.recipemenu import all_recipes
from farbe.desk.workers import Task, Workers
from farbe.files.recipefile import lent
from farbe.folders import queue_folder
from farbe.model.base import BadInput
from farbe.plan.recipes import Recipe
from farbe.queue.store import Queue
from farbe.queue.taking import by_recipe
from farbe.queue.watch import Taken, to_queue, watch
from farbe.render.raster import Report
from farbe.said import say

#: Of the work in a thread.
KEY = "watch"
#: What was done that is still told.
TOLD = 200
#: Seconds after which it is seen that nothing more is to be watched.
SLICE = 0.1


class WatchDesk(QObject):
    """Watches a folder in a thread, and tells what became of each file."""

    changed = Signal()
    #: Something went into the queue.
    queued = Signal()
    _told = Signal(object)

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self.folder: Path | None = None
        self.done: tuple[Taken, ...] = ()
        self._told.connect(self._tell)
        workers.ended.connect(self._ended)

    @property
    def on(self) -> bool:
        """Whether a folder is watched."""
        return self.folder is not None

    def resume(self) -> None:
        """Watch again what was watched when the window was closed."""
        kept = Preferences()
        recipe = next((r for r in all_recipes() if r.name == kept.watch_recipe), None)
        if kept.watch_folder and recipe is not None:
            self.start(Path(kept.watch_folder), recipe)

    def start(self, folder: Path, recipe: Recipe) -> None:
        """Watch a folder, and make what is dropped there by a recipe."""
        self.folder, store = folder, self._session.store
        kept = Preferences()
        kept.watch_folder, kept.watch_recipe = str(folder), recipe.name

        def work(report: Report) -> None:
            def wait(seconds: float) -> None:
                for _ in range(max(1, round(seconds / SLICE))):
                    report(0.0)
                    time.sleep(SLICE)

            made = by_recipe(lent(recipe, store), store)
            use = to_queue(Queue(queue_folder()), store)
            # Closed at once, so that the folder is free for whoever watches it next.
            with closing(watch(folder, made, use, store, wait=wait)) as found:
                for taken in found:
                    report(0.0)
                    if taken is not None:
                        self._told.emit(taken)

        self._workers.start(KEY, work, lambda _: None, lasting=True)
        self.changed.emit()

    def stop(self) -> None:
        """Watch no longer; what is there stays."""
        self._workers.cancel(KEY)
        self.folder = None
        Preferences().watch_folder = ""
        self.changed.emit()

    def _ended(self, task: Task) -> None:
        """Nothing is watched once that came to an end by itself; the next window tries again."""
        if task.key == KEY and not task.cancelled.is_set():
            self.folder = None
            self.changed.emit()

    def _tell(self, taken: Taken) -> None:
        self.done = (taken, *self.done)[:TOLD]
        self.changed.emit()
        if not (taken.failed or taken.waits):
            self.queued.emit()


def recipe_named(name: str) -> Recipe:
    """A recipe that is kept or ships; BadInput if there is none of that name."""
    found = next((one for one in all_recipes() if one.name == name), None)
    if found is None:
        raise BadInput(say("There is no recipe named {name}; choose another one.", name=name))
    return found
