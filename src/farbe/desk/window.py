"""The window: job line, stations, section, inspector, checks."""

from __future__ import annotations

import time
from itertools import islice
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import (
    QCloseEvent,
    QColor,
    QDragEnterEvent,
    QDropEvent,
    QGuiApplication,
    QKeyEvent,
)
from PySide6.QtWidgets import (
    QApplication,
    QFileDialog,
    QMainWindow,
    QMessageBox,
    QScrollArea,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from farbe.desk import theme as themes
from farbe.desk.about import open_guide
from farbe.desk.entering import enter_typed, forget_refused
from farbe.desk.notify import LONG, tell
from farbe.desk.preferences import Preferences
from farbe.desk.startpage import StartPage
from farbe.desk.taborder import in_eye_order
from farbe.layout.figures import units, use_units
from farbe.plan.stations import Station
from farbe.said import say

if TYPE_CHECKING:
    from farbe.checks.check import Check
    from farbe.desk.canvas import Canvas
    from farbe.desk.menus import Menus
    from farbe.desk.workbench import Workbench
    from farbe.desk.workers import Task
    from farbe.files.store import ArtStore
    from farbe.layout.faced import Faced
    from farbe.mishap import Mishap
    from farbe.plan.sentence import Phrase


class MainWindow(QMainWindow):
    """Holds the parts together; what they show follows from the session's job.

    The start page is there at once. All else is furnished when it is needed, or a moment later:
    what it is made of takes longer to load than anyone likes to wait, so nothing of it is imported
    above.

    Parameters
    ----------
    store : where the files of jobs are, or the folder for them
    preferences : the user's
    furnished : whether all of it is made at once
    """

    def __init__(
        self, store: ArtStore | Path, preferences: Preferences, *, furnished: bool = True
    ) -> None:
        super().__init__()
        self.preferences = preferences
        self._store = store
        self.start_page = StartPage()
        #: The stations, from the first job on.
        self.bench: Workbench | None = None
        self.station = Station.LAYERS
        #: Whether a job is shown; not known before the first look.
        self._shown: bool | None = None
        #: The desktop's own colour, if it has one.
        self.accent: QColor | None = None
        self.is_furnished = self._closed = False
        #: Whether the size of text follows the desktop while the window is open.
        self._follows = False
        self._pages = QStackedWidget()
        self._pages.addWidget(self.start_page)
        self._centre = centre = QWidget()
        self._column = QVBoxLayout(centre)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addWidget(self._pages, 1)
        self.setCentralWidget(centre)
        self.setAcceptDrops(True)
        self.setMinimumSize(QSize(900, 480))
        self.resize(1280, 800)
        if preferences.geometry is not None:
            self.restoreGeometry(preferences.geometry)
        self.setWindowTitle("Farbe")
        themes.dress(self)
        self.start_page.show_recent(preferences.recent)
        self.start_page.recipe_chosen.connect(lambda r: self.ready().files.new(r))
        self.start_page.start_chosen.connect(lambda words: self.ready().files.start_on(words))
        self.start_page.path_chosen.connect(lambda path: self.ready().files.open(path))
        self.start_page.sample_chosen.connect(lambda name: self.ready().files.open_sample(name))
        if furnished:
            self.furnish()

    # parts

    def ready(self) -> MainWindow:
        """This window, with all that it is made of."""
        self.furnish()
        return self

    def furnish(self) -> None:
        """Make all but the start page, unless it is there."""
        if self.is_furnished:
            return
        from farbe.apart.asking import APART

        # It loads what it needs while this process does.
        APART.warm_up()
        from farbe.desk.furnishing import furnishing_of
        from farbe.desk.menus import Menus

        self.is_furnished = True
        made = furnishing_of(self, self._store)
        self.session, self.workers, self.results = made.session, made.workers, made.results
        self.intake, self.files, self.desk = made.intake, made.files, made.desk
        self.press, self.watcher, self.plan = made.press, made.watcher, made.plan
        self.job_line, self.rail = made.job_line, made.rail
        self.check_bar, self.look_strip = made.check_bar, made.look_strip
        self._consequences, self.autosave = made.consequences, made.files.autosave
        self._column.insertWidget(0, self.job_line)
        self._column.addWidget(self.check_bar)
        self._column.addWidget(self.look_strip)
        self._menus: Menus = Menus(self)
        self._connect()
        self._refresh()
        self.watcher.resume()

    def _make_bench(self) -> None:
        """Make the stations, once the first job is about to be there."""
        if self.bench is None:
            from farbe.desk.workbench import Workbench

            self.bench = Workbench(self.desk, self.press, self.watcher, self.rail)
            self._pages.addWidget(self.bench)

    def _connect(self) -> None:
        self.session.opening.connect(self._make_bench)
        self.session.opening.connect(forget_refused)
        self.session.turning.connect(forget_refused)
        self.session.changed.connect(self._refresh)
        self.session.said.connect(self.check_bar.say)
        self.workers.failed.connect(self.check_bar.say)
        self.workers.broke.connect(self.check_bar.tell)
        self.check_bar.report.connect(self.save_report)
        self.workers.moved.connect(self._task_moved)
        self.workers.ended.connect(self._task_ended)
        self.results.findings_changed.connect(self._show_findings)
        self.job_line.chosen.connect(self._set_phrase)
        self.rail.chosen.connect(self.visit)
        self.check_bar.visit.connect(self._go_to)
        self.check_bar.fix.connect(self._mend)
        self.check_bar.show_place.connect(self._show_place)
        self.check_bar.accept.connect(self._accept)
        self.check_bar.cancel.connect(self.workers.cancel)
        self.press.opened.connect(self.files.open_copy)
        self.files.started.connect(self._begin)
        self.intake.began.connect(self._begin)
        self.watcher.queued.connect(self.press.look)
        self.press.changed.connect(self.plan.queue_changed)
        self.plan.opened.connect(self.files.open)

    # what is shown

    def _refresh(self) -> None:
        job = self.session.job
        came = False
        if self.bench is not None:
            page = self.start_page if job is None else self.bench
            came = page is self.bench and self._pages.currentWidget() is not page
            self._pages.setCurrentWidget(page)
        self.look_strip.setVisible(job is not None)
        if job is None:
            self.start_page.show_recent(self.preferences.recent)
        self.setWindowTitle(f"{job.name}[*] · Farbe" if job else "Farbe")
        self.setWindowModified(self.session.unsaved)
        self.setWindowFilePath(str(self.session.path or ""))
        self._menus.refresh()
        if (job is not None) is self._shown:
            # What was found is of the job before, and shows until more is known.
            self.workers.once_drawn("job line", self._show_line)
        else:
            self._shown = job is not None
            self.visit(self.station)
            self._show_line()
            self._show_found()
        if came and (canvases := self._canvases()):
            # The keys are at the picture rather than at the first button that there is.
            canvases[0].setFocus()

    def _show_findings(self) -> None:
        for key, show in (
            ("job line", self._show_line), ("found", self._show_found), ("marks", self._mark_things)
        ):  # fmt: skip
            self.workers.once_drawn(key, show)

    def _show_found(self) -> None:
        findings = self.results.findings if self.session.job else None
        self.rail.show_findings(findings)
        self.check_bar.show_findings(findings, is_open=self.session.job is not None)

    def _show_line(self) -> None:
        findings = self.results.findings if self.session.job else None
        self.job_line.show_job(self.session.job, findings, self.desk.currency)
        self.job_line.setVisible(self.session.job is not None)

    def visit(self, station: Station) -> None:
        """Go to a station."""
        self.station = station
        self.results.preview_is_seen = station in (Station.PIECE, Station.LAYERS, Station.PROOF)
        self.rail.choose(station)
        if self.bench is not None:
            self.bench.visit(station)
            self.workers.once_drawn("marks", self._mark_things)

    def _mark_things(self) -> None:
        findings = self.results.findings if self.session.job else None
        if self.bench is not None:
            self.bench.mark(self.station, findings.checks if findings is not None else ())

    def _go_to(self, check: Check) -> None:
        """Go to the value that a finding is about."""
        self.visit(check.station)
        if self.bench is not None:
            self.bench.lead(check)

    def _set_phrase(self, phrase: Phrase) -> None:
        """Go to where a phrase of the job line is set."""
        self.visit(phrase.station)
        if self.bench is not None:
            self.bench.show_value(phrase.station, phrase.values)

    def _task_moved(self, task: Task) -> None:
        # What a thread said before it was cancelled may come after that.
        if not task.cancelled.is_set():
            self.check_bar.show_task(task)

    def _task_ended(self, task: Task) -> None:
        if task.shown and not self.workers.busy(task.key):
            self.check_bar.show_task(None)
            if time.monotonic() - task.began > LONG and not task.cancelled.is_set():
                tell(self, say("{title}: it has come to its end.", title=task.title))

    def _mend(self, check: Check) -> None:
        fix, job = check.fix, self.session.job
        if fix is None or job is None:
            return
        if not fix.is_long:
            self.session.edit(fix.words, fix.mend)
            return
        from farbe.apart.asking import ask
        from farbe.apart.untold import untold

        def put(made: Faced) -> None:
            if self.session.job == job:
                self.session.edit(fix.words, lambda _: made)
            else:
                self._mend(check)

        self.workers.start(
            "mend",
            lambda r: ask(untold, fix.mend, job, report=r),
            self.session.for_this_job(put),
            title=fix.words,
        )

    def _accept(self, check: Check) -> None:
        """Keep with the job that a caution is meant, or ask about it again."""
        from farbe.checks.accept import accepted, asked_again

        if check.accepted:
            self.session.edit(say("Ask again"), lambda job: asked_again(job, check))
        else:
            self.session.edit(say("It is meant"), lambda job: accepted(job, check))

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
        name, _ = QFileDialog.getSaveFileName(
            self, say("Save the report"), start, say("Text (*.txt)")
        )
        if not name:
            return
        try:
            Path(name).write_text(mishap.report, encoding="utf-8")
        except OSError as error:
            self.check_bar.say(
                say(
                    "{path} cannot be written ({strerror}).",
                    path=Path(name).name,
                    strerror=error.strerror,
                )
            )
            return
        self.check_bar.say(say("The report is in {path}.", path=Path(name).name))

    # commands

    def open_path(self, path: Path) -> None:
        """Open a job file, or take artwork."""
        self.ready().files.open(path)

    def open_sample(self, name: str) -> None:
        self.ready().files.open_sample(name)

    def save(self) -> bool:
        return self.files.save()

    def close_job(self) -> None:
        """Leave the job; without one, the window."""
        self.close() if self.session.job is None else self.files.close()

    def _begin(self, job: Faced) -> None:
        """Go where a new job is stated first."""
        self.visit(Station.BED if job.roll is not None else Station.PIECE)

    def switch_side(self) -> None:
        """Look at the side of a two-sided piece that is not shown."""
        self.session.look_at(other_side=not self.session.other_side)

    def send_job(self) -> None:
        """Hand the open job to its receiver; it prints as soon as its printer is free."""
        self.visit(Station.RUN)
        if self.bench is not None:
            self.bench.send_job()

    def _canvases(self) -> list[Canvas]:
        found = [] if self.bench is None else self.bench.canvases(self.station)
        return [canvas for canvas in found if canvas.isVisible()]

    def fit(self) -> None:
        for canvas in self._canvases():
            canvas.fit()

    def switch_outlines(self) -> None:
        for canvas in self._canvases():
            canvas.switch_outlines()

    def open_finder(self) -> None:
        """Every command and every value, by name."""
        from farbe.desk.finder import Command, Finder

        commands = [
            Command(
                a.text().replace("&", ""),
                " ".join(filter(None, (a.data(), a.shortcut().toString()))),
                a.trigger,
            )
            for a in self._menus.actions
            if a.isEnabled()
        ]
        if self.session.job is not None and self.bench is not None:
            commands += self.bench.values(self.visit)
        Finder(commands, self).show()

    def switch_full_screen(self) -> None:
        self.showNormal() if self.isFullScreen() else self.showFullScreen()

    def switch_theme(self) -> None:
        """To dark from all that is light, and back."""
        dark = themes.luminance(themes.theme().panel) < 0.2
        self.preferences.look = themes.Look.LIGHT if dark else themes.Look.DARK
        self.dress()

    def focusNextPrevChild(self, next: bool) -> bool:
        """Hand the keys on in the order of the eye, which changes as things are chosen."""
        order, now = in_eye_order(self._centre), self.focusWidget()
        if next and (now is None or not now.isVisible()):
            # What had the keys is hidden: they go to the first, which is found soon.
            order = islice(order, 1)
        found = list(order)
        if not found:
            return super().focusNextPrevChild(next)
        at = found.index(now) if now in found else (-1 if next else 0)
        reason = Qt.FocusReason.TabFocusReason if next else Qt.FocusReason.BacktabFocusReason
        target = found[(at + (1 if next else -1)) % len(found)]
        target.setFocus(reason)
        area = target.parentWidget()
        while area is not None and not isinstance(area, QScrollArea):
            area = area.parentWidget()
        if area is not None:
            area.ensureWidgetVisible(target)
        return True

    def follow(self) -> None:
        """Take the desktop's size of text whenever the window is come back to."""
        self._follows = True

    def dress(self) -> None:
        """Show the look that the user wants, or the desktop's."""
        app = QApplication.instance()
        if isinstance(app, QApplication):
            scale = themes.text_for(app, self.preferences.text_size)
            look = themes.theme_for(app, self.preferences.look, self.accent)
            themes.use_theme(app, look, scale)
            for widget in app.allWidgets():
                widget.update()

    def changeEvent(self, event: QEvent) -> None:
        """Take the desktop's size of text when the user comes back from changing it."""
        super().changeEvent(event)
        app = QApplication.instance()
        if event.type() == QEvent.Type.ActivationChange and isinstance(app, QApplication):
            wanted = themes.text_for(app, self.preferences.text_size)
            if self._follows and abs(wanted - themes.text_scale()) > 0.01:
                self.dress()

    def show_preferences(self) -> None:
        """Set what is set once."""
        from farbe.desk.preferencesdialog import PreferencesDialog

        dialog = PreferencesDialog(self.preferences, self)
        dialog.taken.connect(self._preferred)
        dialog.show()

    def _preferred(self) -> None:
        self.dress()
        if self.preferences.units is not units():
            use_units(self.preferences.units)
            self.session.tell()
        self._refresh()

    def show_guide(self) -> None:
        if open_guide(self) is None:
            self.check_bar.say(say("The operator's guide was not installed with this Farbe."))

    # dropping and closing

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        from farbe.desk.jobfiles import open_window
        from farbe.files.jobfile import SUFFIX

        self.furnish()
        urls = event.mimeData().urls()
        jobs = [Path(url.toLocalFile()) for url in urls if url.path().endswith(SUFFIX)]
        if jobs:
            self.open_path(jobs[0])
            for other in jobs[1:]:
                open_window(other)
        else:
            self.intake.drop(urls)

    def paste(self) -> None:
        """Take what is on the clipboard: a layer, what a pocket has set apart, a picture, files."""
        from farbe.desk.section import is_layer

        data = QGuiApplication.clipboard().mimeData()
        if data is None:
            self.check_bar.say(say("There is nothing to paste."))
            return
        if any(canvas.pasted(data) for canvas in self._canvases()):
            return
        if self.bench is not None and data.hasText() and is_layer(data.text()):
            self.bench.section.paste()
            return
        self.intake.paste(data)

    def copy(self) -> None:
        """Put what is chosen on the clipboard: a layer, a pocket, the proof."""
        if self.bench is None:
            return
        if self.station is Station.LAYERS and self.bench.section.choice:
            self.bench.section.copy()
            self.check_bar.say(say("{choice} is copied.", choice=self.bench.section.choice))
            return
        found = (canvas.copied() for canvas in self._canvases())
        data = next((one for one in found if one is not None), None)
        if data is None:
            self.check_bar.say(say("Nothing is chosen that could be copied here."))
            return
        QGuiApplication.clipboard().setMimeData(data)
        self.check_bar.say(say("It is copied."))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.is_furnished and self.give_up():
            return
        super().keyPressEvent(event)

    def give_up(self) -> bool:
        """Take back what is half done, or end the work that is shown; whether there was any."""
        if self.desk.picking.wants_colour or self.desk.picking.wants_region:
            self.desk.picking.end()
            return True
        if any(canvas.give_up() for canvas in self._canvases()):
            return True
        if self.bench is not None and self.bench.section.give_up():
            return True
        return self.check_bar.give_up()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self.is_furnished:
            self.preferences.geometry = self.saveGeometry()
            return
        enter_typed()
        if not self.files.may_leave() or not self._may_leave_press():
            event.ignore()
            return
        self.preferences.geometry = self.saveGeometry()
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
            say("Something prints"),
            say(
                "A job prints from here. Its press ends the run that it is in and then waits; "
                "the queue goes on with it when Farbe is open again. Close?"
            ),
            buttons.Yes | buttons.No,
        )
        return answer != buttons.No

    def shut_down(self) -> None:
        """End all work; unsaved work that the user did not give up stays in the autosave."""
        if self.is_furnished and not self._closed:
            self._closed = True
            self.files.let_go()
            self.press.close()
            self.workers.close()
