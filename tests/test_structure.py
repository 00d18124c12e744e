"""Rules of the structure, and the one test with a window on a real X server."""

from __future__ import annotations

import ast
import importlib
import os
import pkgutil
import re
import subprocess
import sys
from pathlib import Path

import pytest
from pydantic import BaseModel

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


ROOT = Path(farbe.__file__).parent
#: Rooms of the core; what draws the samples is no part of it.
BESIDE = ("desk", "commands", "samples", "cli.py", "__main__.py")
CORE = [
    path for path in sorted(ROOT.rglob("*.py")) if path.relative_to(ROOT).parts[0] not in BESIDE
]


def parameters_of(function: ast.FunctionDef) -> set[str]:
    of = function.args
    named = [one.arg for one in (*of.posonlyargs, *of.args, *of.kwonlyargs)]
    named += [of.vararg.arg] if of.vararg else []
    return {one for one in named if one not in ("self", "cls") and not one.startswith("_")}


def told_parameters(text: str) -> set[str]:
    """Names under the heading *Parameters* of a docstring."""
    found = re.search(r"^Parameters\n-+\n(.*?)(?=^\w[\w ]*\n-+\n|\Z)", text, re.S | re.M)
    lines = found[1].splitlines() if found else []
    heads = [line.split(" :")[0] for line in lines if " :" in line and not line.startswith(" ")]
    return {name.strip(" *") for head in heads for name in head.split(",")}


def raised(function: ast.FunctionDef) -> set[str]:
    """Errors that a function raises itself, but for those of wrong use and those it catches."""
    caught = {
        ast.unparse(one.type) for one in ast.walk(function)
        if isinstance(one, ast.ExceptHandler) and one.type is not None
    }  # fmt: skip
    names = {
        ast.unparse(one.exc.func) for one in ast.walk(function)
        if isinstance(one, ast.Raise) and isinstance(one.exc, ast.Call)
    }  # fmt: skip
    return {
        name for name in names
        if name[0].isupper() and not any(name in one for one in caught)
    } - {"TypeError", "AssertionError", "NotImplementedError", "Cancelled"}  # fmt: skip


def test_what_models_and_commands_are_built_from_is_evaluated_once() -> None:
    """Annotations kept as text are compiled again for each field, a fifth of a command's start."""
    commands = {n for n in core_modules() if n.startswith("farbe.commands.")} | {"farbe.cli"}
    loaded = [importlib.import_module(name) for name in {*core_modules(), *commands}]
    built = [
        module for module in loaded
        if module.__name__ in commands
        or any(isinstance(one, type) and issubclass(one, BaseModel)
               and one.__module__ == module.__name__ for one in vars(module).values())
    ]  # fmt: skip
    assert len(built) > 30
    assert not [module.__name__ for module in built if hasattr(module, "annotations")]


@pytest.mark.long
def test_public_functions_say_what_they_take_and_raise() -> None:
    """Each of the core; methods of one meaning once, where they are first stated.

    What is entered in a registry by a decorator with words is described at the registry.
    """
    trees = {path: ast.parse(path.read_text(encoding="utf-8")) for path in CORE}
    classes = [one for tree in trees.values() for one in tree.body if isinstance(one, ast.ClassDef)]
    methods = [one for of in classes for one in of.body if isinstance(one, ast.FunctionDef)]
    stated = {
        one.name
        for one in methods
        if (wanted := parameters_of(one))
        and wanted <= told_parameters(ast.get_docstring(one) or "")
    }
    functions = [
        one for tree in trees.values() for one in tree.body if isinstance(one, ast.FunctionDef)
    ]
    public = [
        *((one, False) for one in functions),
        *((one, True) for of in classes if not of.name.startswith("_")
          for one in of.body if isinstance(one, ast.FunctionDef)),
    ]  # fmt: skip
    lacking = []
    for one, is_method in public:
        if one.name.startswith("_") or any(isinstance(by, ast.Call) for by in one.decorator_list):
            continue
        text = ast.get_docstring(one) or ""
        untold = parameters_of(one) - told_parameters(text)
        if untold and not (is_method and one.name in stated):
            lacking.append(f"{one.name}: {sorted(untold)}")
        lacking += [f"{one.name} raises {name}" for name in raised(one) if name not in text]
    assert lacking == [] and len(public) > 1000
