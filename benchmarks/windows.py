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


def stolen() -> float:
    """Seconds for which others have had the processors of this virtual machine."""
    # The eighth figure of all processors, in proc(5).
    told = os.pread(_STAT, 200, 0).split(b"\n", 1)[0].split()
    return int(told[8]) / os.sysconf("SC_CLK_TCK")


_STAT = os.open("/proc/stat", os.O_RDONLY)


class Waits(QObject):
    """How long the window's thread takes to come back to a timer, and computes itself meanwhile.

    On a virtual machine others may have its processors: that time is told, too.
    """

    def __init__(self) -> None:
        super().__init__()
        self.gaps: list[float] = []
        self.own: list[float] = []
        self.stolen: list[float] = []
        self._last = time.perf_counter(), time.thread_time(), stolen()
        self._timer = QTimer(self, interval=1)
        self._timer.timeout.connect(self._tick)
        self._timer.start()

    def _tick(self) -> None:
        now = time.perf_counter(), time.thread_time(), stolen()
        for kept, new, old in zip((self.gaps, self.own, self.stolen), now, self._last, strict=True):
            kept.append(new - old)
        self._last = now

    def end(self) -> None:
        """Look no more."""
        self._timer.stop()
        self.deleteLater()
