"""The window: job line, stations, section, inspector, checks."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEventLoop, QSize
from PySide6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeySequence,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMainWindow,
    QMenu,
    QMessageBox,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from farbe.art.read import SUFFIXES
from farbe.checks.accept import accepted, asked_again
from farbe.checks.check import Check
from farbe.desk import theme as themes
from farbe.desk.about import open_guide, show_about
from farbe.desk.autosave import Autosave, LeftBehind, left_behind
from farbe.desk.checkbar import CheckBar
from farbe.desk.consequences import Consequences
from farbe.desk.finder import Command, Finder
from farbe.desk.intake import Intake
from farbe.desk.jobline import JobLine
from farbe.desk.lookstrip import LookStrip
from farbe.desk.openfile import OpenFile
from farbe.desk.picking import Picking
from farbe.desk.preferences import Preferences
from farbe.desk.pressdesk import PressDesk
from farbe.desk.rail import Rail
from farbe.desk.recovery import RecoveryDialog
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.startpage import StartPage
from farbe.desk.stations.base import Desk
from farbe.desk.stations.recipemenu import all_recipes
from farbe.desk.watchdesk import WatchDesk
from farbe.desk.workers import Task, Workers
from farbe.files.jobfile import SUFFIX, open_job, save_job
from farbe.files.recipefile import lent
from farbe.files.store import ArtStore
from farbe.mishap import Mishap
from farbe.model.base import BadInput
from farbe.model.job import Job
from farbe.plan.newjob import STARTS, job_from_recipe
from farbe.plan.recipes import Recipe
from farbe.plan.sentence import Station
from farbe.samples.jobs import SAMPLES

if TYPE_CHECKING:
    from farbe.desk.canvas import Canvas
    from farbe.desk.workbench import Workbench


class MainWindow(QMainWindow):
    """Holds the parts together; what they show follows from the session's job."""

    def __init__(self, store: ArtStore, preferences: Preferences) -> None:
        super().__init__()
        self._preferences = preferences
        self.session = Session(store, self)
        self.workers = Workers(self)
        self.results = Results(self.session, self.workers)
        self.consequences = Consequences(self.session, self.workers)
        self.autosave = Autosave(self.session, self.workers)
        self._file = OpenFile()
        self.intake = Intake(self.session, self.workers, preferences, self)
        self.desk = Desk(
            self.session, self.workers, self.results, Picking(self), self.intake,
            preferences.currency, preferences.remember_plate, preferences.meaning,
        )  # fmt: skip
        self.press = PressDesk(self.session, self.workers)
        self.watcher = WatchDesk(self.session, self.workers)
        self.job_line, self.rail, self.check_bar = JobLine(), Rail(), CheckBar()
        self.look_strip = LookStrip(self.results)
        self.start_page = StartPage()
        #: The stations, from the first job on.
        self.bench: Workbench | None = None
        self.station = Station.LAYERS
        self._actions: list[QAction] = []
        self._closed = False
        self._build()
        self._menus()
        self._connect()
        self.setAcceptDrops(True)
        self.setMinimumSize(QSize(1000, 660))
        self.resize(1280, 800)
        if preferences.geometry is not None:
            self.restoreGeometry(preferences.geometry)
        self._refresh()
        self.watcher.resume()

    # parts

    def _build(self) -> None:
        self._pages = QStackedWidget()
        self._pages.addWidget(self.start_page)
        centre = QWidget()
        column = QVBoxLayout(centre)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.job_line)
        column.addWidget(self._pages, 1)
        column.addWidget(self.check_bar)
        column.addWidget(self.look_strip)
        self.setCentralWidget(centre)

    def _make_bench(self) -> None:
        """Import and make the stations, once the first job is about to be there."""
        if self.bench is None:
            from farbe.desk.workbench import Workbench

            with themes.undressed():
                self.bench = Workbench(self.desk, self.press, self.watcher, self.rail)
                self._pages.addWidget(self.bench)

    def _connect(self) -> None:
        self.session.opening.connect(self._make_bench)
        self.session.changed.connect(self._refresh)
        self.session.said.connect(self.check_bar.say)
        self.workers.failed.connect(self.check_bar.say)
        self.workers.broke.connect(self.check_bar.tell)
        self.check_bar.report.connect(self.save_report)
        self.workers.moved.connect(self._task_moved)
        self.workers.ended.connect(self._task_ended)
        self.results.findings_changed.connect(self._show_findings)
        self.job_line.chosen.connect(self.visit)
        self.rail.chosen.connect(self.visit)
        self.check_bar.visit.connect(self.visit)
        self.check_bar.fix.connect(self._mend)
        self.check_bar.show_place.connect(self._show_place)
        self.check_bar.accept.connect(self._accept)
        self.check_bar.cancel.connect(self.workers.cancel)
        self.press.opened.connect(self._open_copy)
        self.watcher.queued.connect(self.press.look)
        self.start_page.recipe_chosen.connect(self.new_job)
        self.start_page.start_chosen.connect(self.start_on)
        self.start_page.path_chosen.connect(self.open_path)
        self.start_page.sample_chosen.connect(self.open_sample)

    def _menus(self) -> None:
        bar = self.menuBar()
        job = bar.addMenu("&Job")
        new = job.addMenu("New")
        for recipe in all_recipes():
            self._act(
                new, recipe.name.capitalize(), "", lambda r=recipe: self.new_job(r), "New job"
            )
        self._act(job, "Start page", "Ctrl+N", self.close_job)
        self._act(job, "Open…", "Ctrl+O", self._ask_open)
        self._recent_menu = job.addMenu("Recent")
        self._recent_menu.aboutToShow.connect(self._fill_recent)
        samples = job.addMenu("Samples")
        for name in SAMPLES:
            words = name.replace("-", " ").capitalize()
            self._act(samples, words, "", lambda n=name: self.open_sample(n), "Sample")
        job.addSeparator()
        self._save = self._act(job, "Save", "Ctrl+S", self.save)
        self._save_as = self._act(job, "Save as…", "Ctrl+Shift+S", self.save_as)
        job.addSeparator()
        self._act(job, "Unsaved jobs…", "", self._show_unsaved)
        self._act(job, "Quit", "Ctrl+Q", self.close)
        edit = bar.addMenu("&Edit")
        self._undo = self._act(edit, "Undo", "Ctrl+Z", self.session.undo)
        self._redo = self._act(edit, "Redo", "Ctrl+Shift+Z", self.session.redo)
        self._act(edit, "Paste artwork", "Ctrl+V", self.paste)
        self._act(edit, "Replace the artwork…", "", self._ask_replace)
        self._act(edit, "It is meant", "F9", self.check_bar.accept_current)
        view = bar.addMenu("&View")
        for number, station in enumerate(Station, start=1):
            self._act(
                view, station.value, f"Alt+{number}", lambda s=station: self.visit(s), "Station"
            )
        view.addSeparator()
        self._act(view, "Next place of the finding", "F8", self.check_bar.next_place)
        self._act(view, "Fit the picture", "Ctrl+0", self.fit)
        self._act(view, "Outlines only", "Ctrl+L", self.switch_outlines)
        self._sides = self._act(view, "Work on the other side", "Ctrl+B", self.switch_side)
        self._act(view, "Full screen", "F11", self._full_screen)
        self._act(view, "Light or dark", "", self._switch_theme)
        tools = bar.addMenu("&Tools")
        self._act(tools, "Send to its receiver", "Ctrl+P", self.send_job)
        self._act(tools, "Find a command or value", "Ctrl+K", self.open_finder)
        help_ = bar.addMenu("&Help")
        self._act(help_, "Operator's guide", "F1", self._show_guide)
        self._act(help_, "About Farbe", "", lambda: show_about(self))

    def _act(self, menu: QMenu, words: str, keys: str, run: object, hint: str = "") -> QAction:
        action = QAction(words, self)
        if keys:
            action.setShortcut(QKeySequence(keys))
        action.setData(hint)
        action.triggered.connect(lambda *_: run())  # type: ignore[operator]
        menu.addAction(action)
        self._actions.append(action)
        return action

    # what is shown

    def _refresh(self) -> None:
        job = self.session.job
        if self._file.path is not None and self.session.path != self._file.path:
            self._file.let_go()
        if self.bench is not None:
            self._pages.setCurrentWidget(self.start_page if job is None else self.bench)
        self.look_strip.setVisible(job is not None)
        if job is None:
            self.start_page.show_recent(self._preferences.recent)
        star = " *" if self.session.unsaved else ""
        self.setWindowTitle(f"{job.name}{star} · Farbe" if job else "Farbe")
        for action, name, words in (
            (self._undo, self.session.undo_name, "Undo"),
            (self._redo, self.session.redo_name, "Redo"),
        ):
            action.setEnabled(name is not None)
            action.setText(f"{words} {name.lower()}" if name else words)
        for action in (self._save, self._save_as):
            action.setEnabled(job is not None)
        self._sides.setEnabled(job is not None and job.other is not None)
        self.visit(self.station)
        self._show_findings()

    def _show_findings(self) -> None:
        findings = self.results.findings if self.session.job else None
        self.job_line.show_job(self.session.job, findings, self.desk.currency)
        self.rail.show_findings(findings)
        self.check_bar.show_findings(findings, is_open=self.session.job is not None)

    def visit(self, station: Station) -> None:
        """Go to a station."""
        self.station = station
        self.rail.choose(station)
        if self.bench is not None:
            self.bench.visit(station)

    def _task_moved(self, task: Task) -> None:
        # What a thread said before it was cancelled may come after that.
        if not task.cancelled.is_set():
            self.check_bar.show_task(task)

    def _task_ended(self, task: Task) -> None:
        if task.shown and not self.workers.busy(task.key):
            self.check_bar.show_task(None)

    def _mend(self, check: Check) -> None:
        if check.fix is not None:
            self.session.edit(check.fix.words, check.fix.mend)

    def _accept(self, check: Check) -> None:
        """Keep with the job that a caution is meant, or ask about it again."""
        if check.accepted:
            self.session.edit("Ask again", lambda job: asked_again(job, check))
        else:
            self.session.edit("It is meant", lambda job: accepted(job, check))

    def _show_place(self, check: Check, which: int) -> None:
        """Go to a place of a finding, in output pixels."""
        place, job = check.places[which], self.session.job
        if job is None:
            return
        if place.face != job.number:
            self.session.look_at(other_side=place.face == 1)
        station = Station.LAYERS if check.station is Station.LAYERS else Station.PROOF
        self.visit(station)
        self.results.show_place(place)
        if self.bench is not None:
            self.bench.show_place(station, check, place)

    def save_report(self, mishap: Mishap | None) -> None:
        """Write what is known of a mishap where the user says."""
        if mishap is None:
            return
        start = str(Path.home() / "farbe-report.txt")
        name, _ = QFileDialog.getSaveFileName(self, "Save the report", start, "Text (*.txt)")
        if not name:
            return
        try:
            Path(name).write_text(mishap.report, encoding="utf-8")
        except OSError as error:
            self.check_bar.say(f"{Path(name).name} cannot be written ({error.strerror}).")
            return
        self.check_bar.say(f"The report is in {Path(name).name}.")

    # commands

    def new_job(self, recipe: Recipe) -> None:
        if self._may_leave():
            try:
                self.session.take(job_from_recipe(lent(recipe, self.session.store)))
            except BadInput as error:
                self.check_bar.say(str(error))
                return
            self.visit(Station.PIECE)

    def start_on(self, words: str) -> None:
        """A new job on film or on round bodies."""
        if self._may_leave():
            self.session.take(STARTS[words]())
            self.visit(Station.BED if self.session.job and self.session.job.roll else Station.PIECE)

    def open_sample(self, name: str) -> None:
        """Open a sample; drawing its artwork takes a moment, so a worker does it."""
        if self._may_leave():
            store = self.session.store
            self.workers.start(
                "sample",
                lambda _: SAMPLES[name](store),
                lambda job: self.session.take(job, saved=True),
                title="Drawing the sample",
            )

    def open_path(self, path: Path) -> None:
        """Open a job file; anything else is taken as artwork, whatever its name says."""
        if path.suffix.lower() != SUFFIX:
            self.intake.add([path])
        elif self._may_leave():
            store = self.session.store
            self.workers.start(
                "open",
                lambda _: open_job(path, store),
                lambda job: self._opened(job, path),
                title=f"Opening {path.name}",
            )

    def _opened(self, job: Job, path: Path) -> None:
        self.session.take(job, path, saved=True)
        self._preferences.remember(path)
        if not self._file.take(path):
            self.check_bar.say(
                f"{path.name} is open in another window, too; save this one under another name."
            )

    def _show_unsaved(self) -> None:
        if left_behind():
            self.offer_recovery()
        else:
            self.check_bar.say("There are no unsaved jobs of windows that ended.")

    def offer_recovery(self) -> None:
        """Offer unsaved jobs of windows that ended suddenly; nothing if there are none."""
        found = left_behind()
        if not found:
            return
        dialog = RecoveryDialog(self, found)
        if dialog.exec() and dialog.chosen is not None and self._may_leave():
            self.recover(dialog.chosen)

    def recover(self, one: LeftBehind) -> None:
        """Open an unsaved job; its copy goes when this window has one of its own."""
        store = self.session.store
        self.workers.start(
            "open", lambda _: open_job(one.copy, store), lambda job: self._recovered(job, one),
            title=f"Opening {one.name}",
        )  # fmt: skip

    def _recovered(self, job: Job, one: LeftBehind) -> None:
        self.session.take(job, one.path)
        if one.path is not None:
            self._file.take(one.path)
        self.autosave.write(then=one.throw_away)

    def _ask_open(self) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in (SUFFIX, *SUFFIXES))
        name, _ = QFileDialog.getOpenFileName(self, "Open", "", f"Jobs and pictures ({kinds})")
        if name:
            self.open_path(Path(name))

    def _ask_replace(self) -> None:
        kinds = " ".join(f"*{suffix}" for suffix in SUFFIXES)
        names, _ = QFileDialog.getOpenFileNames(
            self, "In place of the job's artwork", "", f"Artwork ({kinds});;All files (*)"
        )
        if names:
            self.intake.replace_all([Path(name) for name in names])

    def _fill_recent(self) -> None:
        self._recent_menu.clear()
        for path in self._preferences.recent:
            self._recent_menu.addAction(path.stem, partial(self.open_path, path))
        if self._recent_menu.isEmpty():
            self._recent_menu.addAction("None yet").setEnabled(False)

    def save(self) -> bool:
        """Save where the job is, or ask where."""
        if self.session.path is None:
            return self.save_as()
        return self._save_to(self.session.path)

    def save_as(self) -> bool:
        job = self.session.job
        if job is None:
            return False
        start = str(self.session.path or Path.home() / f"{job.name}{SUFFIX}")
        name, _ = QFileDialog.getSaveFileName(self, "Save the job", start, f"Jobs (*{SUFFIX})")
        if not name:
            return False
        path = Path(name)
        if path.suffix != SUFFIX:
            # What was asked about was the name without the suffix.
            path = path.with_name(path.name + SUFFIX)
            if path.exists() and not self._agrees(f"{path.name} is there already. Replace it?"):
                return False
        return self._save_to(path)

    def _agrees(self, question: str) -> bool:
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(self, "Save the job", question, buttons.Yes | buttons.No)
        return answer == buttons.Yes

    def _save_to(self, path: Path) -> bool:
        """Save in a worker; True once it has begun."""
        job, store = self.session.first, self.session.store
        if job is None:
            return False
        if self._file.changed_elsewhere(path) and not self._agrees(
            f"{path.name} was changed by somebody else since you opened it. Overwrite that?"
        ):
            return False
        self.workers.start(
            "save",
            lambda _: save_job(job.job, store, path),
            lambda _: self._saved(job.job, path),
            title=f"Saving {path.name}",
        )
        return True

    def _saved(self, job: Job, path: Path) -> None:
        self.session.was_saved(job, path)
        self._preferences.remember(path)
        alone = self._file.take(path)
        other = "" if alone else " Another window has it open, too."
        self.check_bar.say(f"Saved as {path.name}.{other}")

    def _save_now(self) -> bool:
        """Save and wait for it, before the job is left; whether it is safe."""
        if not self.save():
            return False
        while self.workers.busy("save"):
            QApplication.processEvents(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents, 50)
        return not self.session.unsaved

    def close_job(self) -> None:
        if self._may_leave():
            self.session.take(None)

    def _may_leave(self) -> bool:
        """Whether the current job may be left: it is saved, or the user says so."""
        job = self.session.job
        if job is None or not self.session.unsaved:
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Unsaved job",
            f"Save {job.name} first?",
            buttons.Save | buttons.Discard | buttons.Cancel,
        )
        if answer == buttons.Save:
            return self._save_now()
        return answer == buttons.Discard

    def _open_copy(self, job: Job) -> None:
        """Work on a job out of the queue, as a new one."""
        if self._may_leave():
            self.session.take(job)

    def switch_side(self) -> None:
        """Look at the side of a two-sided piece that is not shown."""
        self.session.look_at(other_side=not self.session.other_side)

    def send_job(self) -> None:
        """Hand the open job to its receiver; it prints as soon as its printer is free."""
        self.visit(Station.RUN)
        if self.bench is not None:
            self.bench.send_job()

    def _canvases(self) -> list[Canvas]:
        return [] if self.bench is None else self.bench.canvases(self.station)

    def fit(self) -> None:
        for canvas in self._canvases():
            canvas.fit()

    def switch_outlines(self) -> None:
        for canvas in self._canvases():
            canvas.switch_outlines()

    def open_finder(self) -> None:
        """Every command and every value, by name."""
        commands = [
            Command(
                a.text(), " ".join(filter(None, (a.data(), a.shortcut().toString()))), a.trigger
            )
            for a in self._actions
            if a.isEnabled()
        ]
        if self.session.job is not None and self.bench is not None:
            commands += self.bench.values(self.visit)
        Finder(commands, self).show()

    def _full_screen(self) -> None:
        self.showNormal() if self.isFullScreen() else self.showFullScreen()

    def _switch_theme(self) -> None:
        dark = themes.theme() is themes.LIGHT
        self._preferences.dark = dark
        app = QApplication.instance()
        if isinstance(app, QApplication):
            themes.use_theme(app, dark=dark)
            for widget in app.allWidgets():
                widget.update()

    def _show_guide(self) -> None:
        if open_guide(self) is None:
            self.check_bar.say("The operator's guide was not installed with this Farbe.")

    # dropping and closing

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        urls = event.mimeData().urls()
        jobs = [Path(url.toLocalFile()) for url in urls if url.path().endswith(SUFFIX)]
        if jobs:
            self.open_path(jobs[0])
        else:
            self.intake.drop(urls)

    def paste(self) -> None:
        """Add the picture or the files on the clipboard."""
        self.intake.paste(QGuiApplication.clipboard().mimeData())

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._may_leave() or not self._may_leave_press():
            event.ignore()
            return
        self._preferences.geometry = self.saveGeometry()
        self.autosave.discard()
        self.shut_down()
        event.accept()

    def _may_leave_press(self) -> bool:
        """Whether the window may go while something prints from here."""
        if not self.press.busy():
            return True
        buttons = QMessageBox.StandardButton
        answer = QMessageBox.question(
            self,
            "Something prints",
            "A job prints from here. Its press ends the run that it is in and then waits; the queue"
            " goes on with it when Farbe is open again. Close?",
            buttons.Yes | buttons.No,
        )
        return answer != buttons.No

    def shut_down(self) -> None:
        """End all work; unsaved work that the user did not give up stays in the autosave."""
        if not self._closed:
            self._closed = True
            self._file.let_go()
            self.press.close()
            self.workers.close()
