"""The menu bar: what can be done, by words and keys."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtGui import QAction, QKeySequence
from PySide6.QtWidgets import QMenu

from farbe.desk.about import show_about
from farbe.desk.entering import all_taken, enter_typed
from farbe.desk.jobfiles import open_window
from farbe.desk.stations.recipemenu import all_recipes
from farbe.plan.stations import Station
from farbe.said import begun, inside, say, spoken
from farbe.samples.names import NAMES

if TYPE_CHECKING:
    from farbe.desk.window import MainWindow

Act = Callable[[], object]


class Menus:
    """Actions of a window, and which of them can be done now."""

    def __init__(self, window: MainWindow) -> None:
        self._window = window
        #: Every action, for the finder.
        self.actions: list[QAction] = []
        #: Those that need a job.
        self._of_job: list[QAction] = []
        self._job_menu()
        self._edit_menu()
        self._view_menu()
        self._tools_menu()
        self._help_menu()

    def _act(
        self, menu: QMenu, words: str, keys: str, run: Act, hint: str = "", *,
        of_job: bool = False, keeps: bool = False,
    ) -> QAction:  # fmt: skip
        """An action, which may be for a job alone, and may keep it as it is then."""

        def act() -> None:
            if not keeps:
                enter_typed()
            elif not all_taken(self._window):
                return
            run()

        action = QAction(words, self._window)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.setData(hint)
        action.triggered.connect(lambda *_: act())
        menu.addAction(action)
        self.actions.append(action)
        if of_job:
            self._of_job.append(action)
        return action

    def _job_menu(self) -> None:
        window, files, exports = self._window, self._window.files, self._window.desk.exports
        job = window.menuBar().addMenu(say("&Job"))
        new = job.addMenu(say("&New"))
        for recipe in all_recipes():
            self._act(
                new, begun(spoken(recipe.name)), "", partial(files.new, recipe), say("New job")
            )
        self._act(job, say("S&tart page"), "Ctrl+N", files.close)
        self._act(job, say("New &window"), "Ctrl+Shift+N", open_window)
        self._act(job, say("&Open…"), "Ctrl+O", files.ask_open)
        self._recent = job.addMenu(say("&Recent"))
        self._recent.aboutToShow.connect(self._fill_recent)
        samples = job.addMenu(say("Sa&mples"))
        for name, words in NAMES.items():
            self._act(samples, words, "", partial(files.open_sample, name), say("Sample"))
        job.addSeparator()
        self._act(job, say("&Save"), "Ctrl+S", files.save, of_job=True, keeps=True)
        self._act(job, say("Save &as…"), "Ctrl+Shift+S", files.save_as, of_job=True, keeps=True)
        self._act(job, say("Save a &copy…"), "", files.save_copy, of_job=True, keeps=True)
        self._revert = self._act(job, say("Re&vert to what was saved…"), "", files.revert)
        export = job.addMenu(say("&Export"))
        for words, run in (
            (say("&Plates, the hand-off…"), exports.ask_hand_off),
            (say("&Guide as a cutting file…"), exports.ask_guide),
            (say("&Run sheet…"), exports.ask_run_sheet),
            (say("Proof &sheet for the customer…"), exports.ask_proof_sheet),
            (say("&Estimate…"), exports.ask_estimate),
        ):
            self._act(export, words, "", run, say("Export"), of_job=True)
        job.addSeparator()
        self._act(job, say("Or&ders…"), "Ctrl+Shift+O", self._show_orders)
        self._act(job, say("&Keep as a product…"), "", files.keep_product, of_job=True, keeps=True)
        job.addSeparator()
        self._act(job, say("&Unsaved jobs…"), "", files.show_unsaved)
        self._act(job, say("C&lose"), "Ctrl+W", window.close_job)
        self._act(job, say("&Quit"), "Ctrl+Q", window.close)

    def _show_orders(self) -> None:
        from farbe.desk.orders.window import open_orders

        open_orders(self._window.plan, self._window.workers, self._window)

    def _edit_menu(self) -> None:
        window = self._window
        edit = window.menuBar().addMenu(say("&Edit"))
        self._undo = self._act(edit, say("Undo"), "Ctrl+Z", window.session.undo)
        self._redo = self._act(edit, say("Redo"), "Ctrl+Shift+Z", window.session.redo)
        edit.addSeparator()
        self._act(edit, say("&Copy"), "Ctrl+C", window.copy, of_job=True)
        self._act(edit, say("&Paste"), "Ctrl+V", window.paste)
        self._act(edit, say("Replace the &artwork…"), "", window.files.ask_replace)
        edit.addSeparator()
        self._act(edit, say("It is &meant"), "F9", window.check_bar.accept_current, of_job=True)
        self._act(edit, say("Pre&ferences…"), "Ctrl+,", window.show_preferences)

    def _view_menu(self) -> None:
        window = self._window
        view = window.menuBar().addMenu(say("&View"))
        for number, station in enumerate(Station, start=1):
            self._act(
                view, f"&{number} {station.words}", f"Alt+{number}", partial(window.visit, station),
                say("Station"),
            )  # fmt: skip
        view.addSeparator()
        results = window.results
        self._act(
            view, say("&Next print"), "Ctrl+PgDown", lambda: results.step_print(1), of_job=True
        )
        self._act(
            view, say("Print &before"), "Ctrl+PgUp", lambda: results.step_print(-1), of_job=True
        )
        self._act(view, say("Next place of the finding"), "F8", window.check_bar.next_place)
        self._act(view, say("&Fit the picture"), "Ctrl+0", window.fit)
        self._act(view, say("&Outlines only"), "Ctrl+L", window.switch_outlines)
        self._sides = self._act(view, say("Work on the other &side"), "Ctrl+B", window.switch_side)
        self._act(view, say("F&ull screen"), "F11", window.switch_full_screen)
        self._act(view, say("Light or &dark"), "", window.switch_theme)

    def _tools_menu(self) -> None:
        tools = self._window.menuBar().addMenu(say("&Tools"))
        self._act(
            tools, say("&Send to its receiver"), "Ctrl+P", self._window.send_job,
            of_job=True, keeps=True,
        )  # fmt: skip
        self._act(tools, say("&Find a command or value"), "Ctrl+K", self._window.open_finder)

    def _help_menu(self) -> None:
        help_ = self._window.menuBar().addMenu(say("&Help"))
        self._act(help_, say("Operator's &guide"), "F1", self._window.show_guide)
        self._act(help_, say("&About Farbe"), "", lambda: show_about(self._window))

    def _fill_recent(self) -> None:
        self._recent.clear()
        for path in self._window.preferences.recent:
            self._recent.addAction(path.stem, partial(self._window.files.open, path))
        if self._recent.isEmpty():
            self._recent.addAction(say("None yet")).setEnabled(False)

    def refresh(self) -> None:
        """Words and states follow the session."""
        session = self._window.session
        for action, name, words in (
            (self._undo, session.undo_name, say("&Undo")),
            (self._redo, session.redo_name, say("&Redo")),
        ):
            action.setEnabled(name is not None)
            action.setText(f"{words} {inside(name)}" if name else words)
        for action in self._of_job:
            action.setEnabled(session.job is not None)
        self._revert.setEnabled(session.path is not None and session.unsaved)
        self._sides.setEnabled(session.job is not None and session.job.other is not None)
