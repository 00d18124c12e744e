"""Rules of the structure, and the one test with a window on a real X server."""

from __future__ import annotations

import os
import pkgutil
import subprocess
import sys
from pathlib import Path

import pytest

import farbe

WITHOUT_QT = """
import importlib, sys
class NoQt:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PySide6", "shiboken6"):
            raise ImportError("no Qt here")
sys.meta_path.insert(0, NoQt())
for name in sys.argv[1:]:
    importlib.import_module(name)
"""

ON_X = """
import sys, tempfile
from pathlib import Path
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from farbe.desk.app import make_app, settle
from farbe.desk.preferences import Preferences
from farbe.desk.theme import LIGHT, use_theme
from farbe.desk.window import MainWindow
from farbe.files.store import ArtStore
from farbe.plan.stations import Station
app = make_app()
use_theme(app, LIGHT)
window = MainWindow(ArtStore(Path(sys.argv[1])), Preferences())
window.show()
QTest.qWaitForWindowExposed(window)
window.open_sample("jar-labels")
settle(window)
for station in Station:
    QTest.mouseClick(window.rail.buttons[station], Qt.MouseButton.LeftButton)
    assert window.station is station, station
window.visit(Station.BED)
settle(window)
shot = app.primaryScreen().grabWindow(0).toImage()
colours = {shot.pixelColor(x, y).name() for x in range(0, 1280, 9) for y in range(0, 800, 9)}
print(app.platformName(), shot.width(), shot.height(), len(colours))
window.close()
"""


def core_modules() -> list[str]:
    names = [m.name for m in pkgutil.walk_packages(farbe.__path__, "farbe.")]
    return [n for n in names if not n.startswith("farbe.desk") and "__main__" not in n]


def test_the_core_works_where_qt_cannot_be_imported() -> None:
    names = core_modules()
    assert len(names) > 40
    subprocess.run([sys.executable, "-c", WITHOUT_QT, *names], check=True)


@pytest.mark.long
def test_a_real_window_under_xvfb(tmp_path: Path) -> None:
    script = tmp_path / "on_x.py"
    script.write_text(ON_X)
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable, script, tmp_path / "art"],
        env=os.environ | {"QT_QPA_PLATFORM": "xcb"}, capture_output=True, text=True, timeout=180,
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    platform, width, height, colours = done.stdout.split()[-4:]
    assert platform == "xcb" and (width, height) == ("1280", "800")
    # A real picture of labels, not a blank screen.
    assert int(colours) > 60


def test_files_stay_readable() -> None:
    root = Path(farbe.__file__).parent
    longest = max(root.rglob("*.py"), key=lambda p: p.read_text().count("\n"))
    assert longest.read_text().count("\n") <= 600, longest


def test_qt_calls_leave_none_alone() -> None:
    """PySide6 6.12.0 took a reference from None at each call and ended Python 3.11 in the end."""
    from PySide6.QtGui import QImage, QPainter

    image = QImage(4, 4, QImage.Format.Format_RGB32)
    painter = QPainter(image)
    before = sys.getrefcount(None)
    for _ in range(500):
        painter.setOpacity(1.0)
    assert sys.getrefcount(None) > before - 100
    painter.end()
