"""Start-up: the application, its fonts and theme, and the window."""

from __future__ import annotations

import signal
import sys
import time
from collections.abc import Callable
from importlib import import_module
from importlib.resources import files
from pathlib import Path
from threading import Thread

from PySide6.QtCore import QEventLoop, QLibraryInfo, QLocale, QTimer, QTranslator
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QApplication

from farbe import APP_ID
from farbe.desk.handout import clear_handed_out
from farbe.desk.openart import own_art
from farbe.desk.preferences import Preferences
from farbe.desk.theme import desktop_accent, load_fonts, text_for, theme_for, use_theme
from farbe.desk.tidying import Tidying
from farbe.desk.window import MainWindow
from farbe.folders import log_file
from farbe.layout.figures import use_decimal_point, use_units
from farbe.leftover import clear_left_over
from farbe.mishap import keep_log, mishap_of
from farbe.model.base import BadInput
from farbe.said import language, say

SETTLE_SECONDS = 120.0
#: Seconds for which one thread may keep Python to itself while others want it; usually ten times.
TURN = 0.0005
#: From one look at what goes on to the next; three quiet ones are an end.
LOOK_MS = 10


def make_app() -> QApplication:
    """The one application object, dressed."""
    # The window's thread takes turns with work at each of its many small steps.
    sys.setswitchinterval(TURN)
    existing = QApplication.instance()
    app = existing if isinstance(existing, QApplication) else QApplication(sys.argv[:1])
    app.setApplicationName("Farbe")
    app.setDesktopFileName(APP_ID)
    app.setWindowIcon(application_icon())
    load_fonts()
    words = QTranslator(app)
    if words.load(
        f"qtbase_{language()}", QLibraryInfo.path(QLibraryInfo.LibraryPath.TranslationsPath)
    ):
        # What Qt itself says, as on the buttons of its dialogs.
        app.installTranslator(words)
    return app


def application_icon() -> QIcon:
    """Farbe's own icon in all its sizes."""
    icon = QIcon()
    for one in (files("farbe") / "data" / "desktop").iterdir():
        if one.name.startswith(f"{APP_ID}-") and one.name.endswith(".png"):
            picture = QPixmap()
            picture.loadFromData(one.read_bytes())
            icon.addPixmap(picture)
    return icon


def own_locale(preferences: Preferences) -> QLocale:
    """How figures are written: as the desktop does, or as in the language that was chosen."""
    return QLocale(preferences.language) if preferences.language else QLocale.system()


def run_desk(*paths: Path) -> int:
    """Open the window, with what is given, each further job in a window of its own.

    A job that is open in another window is shown there.
    """
    if not paths:
        return _run(lambda window: window.files.offer_recovery(), furnished=False)
    from farbe.desk.doorbell import ring
    from farbe.desk.jobfiles import open_window
    from farbe.files.jobfile import SUFFIX

    make_app()

    def is_shown(path: Path) -> bool:
        try:
            return ring(path)
        except BadInput:
            # Said by the window that opens it.
            return False

    jobs = [path for path in paths if path.suffix.lower() == SUFFIX and not is_shown(path)]
    arts = [path for path in paths if path.suffix.lower() != SUFFIX]
    if not jobs and not arts:
        return 0
    for other in jobs[1:]:
        open_window(other)

    def begin(window: MainWindow) -> None:
        if jobs:
            window.open_path(jobs[0])
        if arts:
            window.intake.add(arts)
        window.files.offer_recovery()

    return _run(begin)


def run_demo(pictures: Path | None) -> int:
    """Open the sample job, or write a picture of each station with it."""
    if pictures is not None:
        from farbe.desk.pictures import write_pictures

        return write_pictures(pictures)

    def begin(window: MainWindow) -> None:
        window.open_sample("jar-lids")
        window.files.offer_recovery()

    return _run(begin)


def _run(begin: Callable[[MainWindow], object], *, furnished: bool = True) -> int:
    app, preferences = make_app(), Preferences()
    keep_log(log_file())
    accent = desktop_accent(app)
    use_units(preferences.units)
    use_decimal_point(own_locale(preferences).decimalPoint())
    scale = text_for(app, preferences.text_size)
    use_theme(app, theme_for(app, preferences.look, accent), scale)
    # Ctrl+C in the terminal ends the window; Python needs a turn now and then to see it.
    signal.signal(signal.SIGINT, lambda *_: app.quit())
    turn = QTimer()
    turn.timeout.connect(lambda: None)
    turn.start(300)
    clear_left_over()
    clear_handed_out()
    with own_art() as folder:
        window = MainWindow(folder, preferences, furnished=furnished)
        window.accent = accent
        window.follow()
        window.show()

        def told(kind: type[BaseException], error: BaseException, trace: object) -> None:
            if issubclass(kind, Exception):
                window.ready().check_bar.tell(mishap_of(say("What was asked"), error))
            else:
                sys.__excepthook__(kind, error, error.__traceback__)

        # What a signal called raises ends here.
        sys.excepthook = told
        app.styleHints().colorSchemeChanged.connect(lambda _: window.dress())

        def whole(window: MainWindow) -> None:
            begin(window)
            Tidying(window.session, window.workers)

        if furnished:
            whole(window)
        else:
            furnish_soon(window, whole)
        status = app.exec()
        window.shut_down()
    return status


def furnish_soon(window: MainWindow, then: Callable[[MainWindow], object]) -> None:
    """Load the rest of Farbe beside the start page, and furnish the window with it."""

    def load() -> None:
        import_module("farbe.apart.asking").APART.warm_up()
        import_module("farbe.desk.workbench")

    loading = Thread(target=load, daemon=True)
    looking = QTimer(window)

    def look() -> None:
        if loading.ident is not None and not loading.is_alive():
            looking.stop()
            then(window.ready())

    looking.timeout.connect(look)
    # The page is drawn first.
    QTimer.singleShot(0, loading.start)
    looking.start(40)


def settle(window: MainWindow, seconds: float = SETTLE_SECONDS) -> None:
    """Let all work of a window finish and its results be drawn.

    Parameters
    ----------
    window : whose work it is
    seconds : that it may take

    Raises
    ------
    BadInput
        If it takes longer.
    """
    until = time.monotonic() + seconds
    quiet = 0
    while quiet < 3:
        loop = QEventLoop()
        QTimer.singleShot(LOOK_MS, loop.quit)
        loop.exec()
        drawn = window.bench is None or window.bench.is_painted
        quiet = quiet + 1 if drawn and not window.workers.busy() else 0
        if time.monotonic() > until:
            raise BadInput(say("The pictures took too long; the machine is too busy, try again."))
