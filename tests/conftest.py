"""Shared fixtures; the platform is offscreen and nothing of the user's own is touched."""

from __future__ import annotations

import contextlib
import functools
import gc
import os
import signal
import socket
import struct
import sys
import threading
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
import pytest
from hypothesis import HealthCheck, settings
from PIL import Image

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ.setdefault("FARBE_LANGUAGE", "en")

from farbe.art.artwork import Artwork, Space
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.layout.figures import Units, use_decimal_point, use_units
from farbe.layout.pockets import centred_jig
from farbe.model.base import BadInput
from farbe.model.condition import Condition, Origin
from farbe.model.face import Face, Turning
from farbe.model.jig import Board, Cutting, Jig
from farbe.model.job import Job
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Circle, Material, Piece, Reader, Surface
from farbe.model.printer import PROCESS, VARNISH, WHITE, Printer
from farbe.model.receiver import Receiver
from farbe.model.roll import Roll
from farbe.model.text import TextBox
from farbe.orders.product import FOLDER, keep_product
from farbe.press.client import PressLine, socket_path
from farbe.samples.jobs import SAMPLES

if TYPE_CHECKING:
    from PySide6.QtWidgets import QApplication, QWidget

    from farbe.desk.window import MainWindow


# What is drawn at random is drawn alike each time, so that a test fails for whoever broke it;
# ``--hypothesis-profile=anew`` looks for what nobody has tried yet. How long that takes is told by
# benchmarks alone, and fixtures of a test serve all that is drawn for it.
ANY_TIME = settings(
    deadline=None,
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.function_scoped_fixture],
)
settings.register_profile("anew", ANY_TIME)
settings.register_profile("alike", ANY_TIME, derandomize=True)
settings.load_profile("alike")

#: Threads that are started once for a process, and kept.
OF_THE_PROCESS = ("Dask-Offload", "IO loop", "farbe-apart")


def some(of: Iterable[Any], *always: object) -> list[Any]:
    """All of a kind as parameters of a test: those that are always tried, and the others."""
    return [one if one in always else pytest.param(one, marks=pytest.mark.long) for one in of]


@pytest.fixture(autouse=True)
def own_folders(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """Settings, autosaves, queue and press of a test stay in its own folder, and end with it."""
    monkeypatch.setenv("FARBE_CONFIG", str(tmp_path / "config"))
    monkeypatch.setenv("FARBE_STATE", str(tmp_path / "state"))
    monkeypatch.setenv("FARBE_DATA", str(tmp_path / "data"))
    monkeypatch.setenv("FARBE_CACHE", str(tmp_path / "cache"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "share"))
    yield
    use_units(Units.MM)
    use_decimal_point(".")
    for spool in (tmp_path / "state").glob("press*"):
        with contextlib.suppress(BadInput), PressLine(spool) as press:
            press.ask(do="quit")


@pytest.fixture
def store(tmp_path: Path) -> ArtStore:
    return ArtStore(tmp_path / "store")


def small_art(path: Path, width: int = 60, height: int = 40) -> Path:
    """A picture that is unlike its mirror: colours, white, soft alpha, an empty corner."""
    y, x = np.mgrid[0:height, 0:width]
    alpha = np.where((x - width * 0.45) ** 2 + (y - height / 2) ** 2 < (height * 0.45) ** 2, 255, 0)
    alpha[: height // 3, : width // 3] = 128
    pixels = np.dstack([x * 255 // width, y * 255 // height, 255 - x * 255 // width, alpha])
    pixels[height // 2 : height // 2 + 6, width // 3 : width // 2, :3] = 255
    Image.fromarray(pixels.astype(np.uint8)).save(path, dpi=(150, 150))
    return path


@pytest.fixture
def read_here(monkeypatch: pytest.MonkeyPatch) -> None:
    """Drawings are read in this process and coarser: quicker; limits are tested elsewhere."""
    from farbe.art.drawparse import parse
    from farbe.art.wanted import Wanted

    def ask(_: str, path: Path, folder: Path, __: float, words: str) -> dict[str, Any]:
        found = parse(path, folder, Wanted.read(words, folder))
        if "refused" in found:
            raise BadInput(found["refused"])
        return found

    monkeypatch.setattr("farbe.art.drawing.ask", ask)
    monkeypatch.setattr("farbe.art.planes.DPI", 200.0)


@pytest.fixture
def pictures_here(monkeypatch: pytest.MonkeyPatch) -> None:
    """Pictures are read in this process, where limits of a test's own can be set."""
    from farbe.art.pictureparse import answer_to

    def ask(_: str, path: Path, folder: Path, __: float, words: str) -> dict[str, Any]:
        return answer_to(path, folder, words)

    monkeypatch.setattr("farbe.art.read.ask", ask)


@pytest.fixture
def art_file(tmp_path: Path) -> Path:
    return small_art(tmp_path / "art.png")


@pytest.fixture
def job(store: ArtStore, art_file: Path) -> Faced:
    """The small job that most tests look at."""
    return small_job(store, art_file)


def small_job(store: ArtStore, art_file: Path) -> Faced:
    """Twelve small tokens at uneven resolution: quick, and nothing divides evenly."""
    shape = Circle(diameter=11.3)
    jig = Jig(
        name="Tokens",
        board=Board(width=78, height=56),
        first_x=0,
        first_y=0,
        columns=4,
        rows=3,
        gap_x=4.7,
        gap_y=3.9,
    )
    made = Job(
        name="Tokens",
        piece=Piece(name="token", shape=shape, height=3, surface=Surface(colour="#1d3b31")),
        faces=(
            Face(
                reader=Reader.FACE,
                artworks=(store.add_artwork(art_file),),
                stack=(WHITE_UNDER, COLOUR, VARNISH_OVER),
            ),
        ),
        printer=Printer(
            name="Small",
            bed_width=80,
            bed_height=60,
            max_piece_height=50,
            dpi_x=150,
            dpi_y=210,
            conditions=(
                Condition(
                    name="Known",
                    surfaces=tuple(Material),
                    origin=Origin.MEASURED,
                    inks=tuple(ink.name for ink in (*PROCESS, WHITE, VARNISH)),
                ),
            ),
        ),
        jig=centred_jig(jig, shape),
        cutting=Cutting(notch=3.0),
        receiver=Receiver(name="Plain"),
    )
    return Faced(made)


HEAD = "order,product,artwork,text,quantity,due"
#: Colours that no ink mixes up.
PAINTS = {"red": "#d81b2a", "green": "#1b9a3a", "blue": "#2a3cb8", "yellow": "#f2d21b",
          "pink": "#e85aa8", "sky": "#58b8e0"}  # fmt: skip


@pytest.fixture
def shop(tmp_path: Path, store: ArtStore, read_here: None) -> Path:
    """A folder with a product on a board of twelve, one on film, and coloured artwork."""
    folder = tmp_path / "shop"
    folder.mkdir()
    for name, colour in PAINTS.items():
        Image.new("RGB", (60, 60), colour).save(folder / f"{name}.png", dpi=(127, 127))
    token = small_job(store, small_art(folder / "own.png"))
    text = TextBox(text="{text}", y=-3, width=8, height=2, size=1.6)
    keep_product(token.replace(name="Token").job, store, folder / FOLDER)
    named = token.replace(name="Token with a name", texts=(text,))
    keep_product(named.job, store, folder / FOLDER)
    film = token.replace(
        name="Transfer", reader=Reader.TRANSFER, stack=(COLOUR, WHITE_UNDER),
        medium=Roll(width=78, side=2, lead=5, trail=5, gap=2, longest=120),
    )  # fmt: skip
    keep_product(film.job, store, folder / FOLDER)
    return folder


def listed(folder: Path, *rows: str, head: str = HEAD, name: str = "list.csv") -> Path:
    path = folder / name
    path.write_text("\n".join((head, *rows)) + "\n", encoding="utf-8")
    return path


def sided(job: Faced, turning: Turning | None = None, **behind: object) -> Faced:
    """The job printed on both sides, with this on its second face."""
    second = Face(**behind)  # type: ignore[arg-type]
    made = job.job.replace(faces=(job.face, second), comes_up=turning or Turning())
    return Faced(made, job.number)


def behind(job: Faced, **fields: object) -> Faced:
    """The job with other values on the face that is not looked at."""
    assert job.other is not None
    made = job.other.replace(**fields).other
    assert made is not None
    return made


#: A sample job by its name, and the store that holds its artwork.
Sample = Callable[[str], tuple[Faced, ArtStore]]


@pytest.fixture(scope="session", autouse=True)
def drawn_plainly() -> Iterator[None]:
    """Samples are drawn without the finer pixels that smooth their edges: a third of the time."""
    from farbe.samples import draw

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(draw, "OVER", 1)
        yield


@pytest.fixture(scope="session")
def sample(tmp_path_factory: pytest.TempPathFactory) -> Sample:
    """Sample jobs, each drawn once."""
    store = ArtStore(tmp_path_factory.mktemp("samples"))
    return functools.cache(lambda name: (Faced(SAMPLES[name](store)), store))


@pytest.fixture(scope="session")
def lids(sample: Sample) -> tuple[Faced, ArtStore]:
    """The sample job of jar lids."""
    return sample("jar-lids")


@pytest.fixture(scope="session")
def qapp() -> QApplication:
    """The one application of all tests."""
    from farbe.desk.app import make_app
    from farbe.desk.theme import LIGHT, use_theme

    app = make_app()
    use_theme(app, LIGHT)
    return app


@pytest.fixture
def window(
    qapp: QApplication, store: ArtStore, job: Faced, monkeypatch: pytest.MonkeyPatch
) -> Iterator[MainWindow]:
    """A window with the small job open; nothing of it is left behind."""
    from PySide6.QtWidgets import QMessageBox

    from farbe.desk.app import settle
    from farbe.desk.preferences import Preferences
    from farbe.desk.window import MainWindow

    monkeypatch.setattr(QMessageBox, "question", lambda *_: QMessageBox.StandardButton.Discard)
    preferences = Preferences()
    preferences.pace = 0.0
    made = MainWindow(store, preferences)
    made.resize(1280, 800)
    made.show()
    made.session.take(job.job, saved=True)
    settle(made)
    yield made
    made.close()
    delete(made)


@pytest.fixture(scope="module", autouse=True)
def no_timers_go_on() -> Iterator[None]:
    """Timers that a file's tests leave behind fail it; told once, since it takes its time."""
    yield
    if "PySide6.QtCore" not in sys.modules:
        return
    import shiboken6
    from PySide6.QtCore import QTimer

    going = [
        one for one in gc.get_objects()
        # Of millions of things, the kind is asked first: it is quickest told.
        if type(one) is QTimer and shiboken6.isValid(one) and one.isActive()
    ]  # fmt: skip
    assert not going, f"timers are left: {[one.parent() for one in going]}"


def kill_press(spool: Path) -> None:
    """Kill the press that answers for a spool, as a fault would; the system tells who it is."""
    with socket.socket(socket.AF_UNIX) as line, contextlib.suppress(OSError):
        line.connect(str(socket_path(spool)))
        asked = line.getsockopt(socket.SOL_SOCKET, socket.SO_PEERCRED, struct.calcsize("3i"))
        os.kill(struct.unpack("3i", asked)[0], signal.SIGKILL)
        # Until the system has closed what it held, it still takes calls.
        line.recv(1)


def delete(widget: QWidget) -> None:
    """Delete a widget now, with all that it holds."""
    from PySide6.QtCore import QCoreApplication, QEvent

    widget.deleteLater()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QCoreApplication.processEvents()


@pytest.fixture(autouse=True)
def nothing_is_left(request: pytest.FixtureRequest) -> Iterator[None]:
    """Threads, windows and timers that a test leaves behind fail it."""
    threads, windows = set(threading.enumerate()), _windows()
    yield
    for thread in set(threading.enumerate()) - threads:
        if not thread.name.startswith(OF_THE_PROCESS):
            # What is about to end may do so.
            thread.join(timeout=2.0)
    left = [
        t.name
        for t in threading.enumerate()
        if t not in threads and t.is_alive() and not t.name.startswith(OF_THE_PROCESS)
    ]
    assert not left, f"threads are left: {left}"
    # A leaked window goes on with its timers, and every later change of style dresses it.
    more = _windows() - windows
    assert not more, f"windows are left: {more}"


def _windows() -> set[str]:
    """The windows that there are."""
    if "PySide6.QtWidgets" not in sys.modules:
        return set()
    from PySide6.QtWidgets import QApplication

    if QApplication.instance() is None:
        return set()
    return {repr(one) for one in QApplication.topLevelWidgets() if one.parent() is None}


def artwork_of(alpha: np.ndarray, colour: tuple[int, int, int] = (200, 60, 30)) -> Artwork:
    """One colour under an alpha plane."""
    pixels = np.empty((*alpha.shape, 4), np.uint8)
    pixels[..., :3] = colour
    pixels[..., 3] = alpha
    return Artwork(pixels, Space.RGB, None, None)


def pytest_collection_finish() -> None:
    """What was loaded stays: nobody need look again and again whether it can go."""
    gc.collect()
    gc.freeze()
