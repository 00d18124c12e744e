"""Windows that are measured: opened, waited in, and how long their thread is away."""

from __future__ import annotations

import os
import time
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QEventLoop, QObject, QTimer

from farbe.apart.asking import APART
from farbe.desk.app import make_app
from farbe.desk.preferences import Preferences
from farbe.desk.theme import LIGHT, use_theme
from farbe.desk.tidying import Tidying
from farbe.desk.window import MainWindow
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.job import Job
from farbe.samples.jobs import SAMPLES


def opened(folder: Path) -> MainWindow:
    """A window as the application has it, which keeps all that is its own in a folder."""
    own = str(folder)
    os.environ |= {"FARBE_CONFIG": own, "FARBE_STATE": own, "FARBE_DATA": own}
    use_theme(make_app(), LIGHT)
    window = MainWindow(ArtStore(folder / "store"), Preferences())
    window.resize(1280, 800)
    window.show()
    Tidying(window.session, window.workers)
    return window


def sample(name: str, store: ArtStore) -> Job:
    """A sample job."""
    made = SAMPLES[name](store)
    return made.job if isinstance(made, Faced) else made


def wait(seconds: float) -> None:
    """Let the window go on for a while."""
    loop = QEventLoop()
    QTimer.singleShot(round(1000 * seconds), loop.quit)
    loop.exec()


def worked() -> float:
    """Seconds that processors have worked for the window: its process, and the one apart."""
    # Fields 14 and 15 of proc(5), after the name in brackets, which may hold anything.
    told = Path(f"/proc/{APART.pid}/stat").read_text().rpartition(")")[2].split()
    return time.process_time() + sum(map(int, told[11:13])) / os.sysconf("SC_CLK_TCK")


class Waits(QObject):
    """How long the window's thread takes to come back to a timer, and computes itself meanwhile."""

    def __init__(self) -> None:
        super().__init__()
        self.gaps: list[float] = []
        self.own: list[float] = []
        self._last, self._computed = time.perf_counter(), time.thread_time()
        self._timer = QTimer(self, interval=1)
        self._timer.timeout.connect(self._tick)
        self._timer.start()

    def _tick(self) -> None:
        now, computed = time.perf_counter(), time.thread_time()
        self.gaps.append(now - self._last)
        self.own.append(computed - self._computed)
        self._last, self._computed = now, computed

    def end(self) -> None:
        """Look no more."""
        self._timer.stop()
        self.deleteLater()
