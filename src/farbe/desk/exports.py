"""Files that are made of the open job, each in a worker: hand-off, guide, sheets, estimate."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QFileDialog, QWidget

from farbe.apart.asking import ask
from farbe.apart.untold import untold
from farbe.checks.weight import Weight
from farbe.desk.entering import all_taken
from farbe.desk.preferences import Preferences
from farbe.desk.results import Results
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.edits.places import guide_was_made
from farbe.files.cutting import write_cutting_file
from farbe.files.proofsheet import write_proof_sheet
from farbe.files.reference import SUFFIX, write_reference
from farbe.files.stripfile import strip_reference
from farbe.files.ticket import Ticket
from farbe.follows.exports import (
    handed_off,
    write_bench_sheet,
    write_estimate,
)
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.model.base import BadInput
from farbe.names import safe_name
from farbe.said import say


class Exports(QObject):
    """Asks where a file is to be, and writes it; the one place for menus and buttons."""

    def __init__(
        self,
        session: Session,
        workers: Workers,
        results: Results,
        preferences: Preferences,
        parent: QWidget,
    ) -> None:
        super().__init__(parent)
        self._session, self._workers, self._results = session, workers, results
        self._preferences, self._window = preferences, parent

    # asking

    def ask_hand_off(self) -> None:
        """Ask for the folder that the job's files are to go to; it becomes the receiver's."""
        job = self._session.first
        if job is None or not all_taken(self._window):
            return
        folder = QFileDialog.getExistingDirectory(
            self._window, say("Folder for the hand-off"), job.receiver.folder
        )
        if folder:
            self._session.edit(
                say("Folder of the receiver"),
                lambda j: j.replace(receiver=j.receiver.replace(folder=folder)),
            )
            self.hand_off(Path(folder))

    def ask_guide(self, proposed: str = "jig.svg") -> None:
        """Ask for the cutting file of the jig or the film."""
        self._ask(
            say("Cutting file"), proposed, say("Cutting files (*.svg *.pdf *.dxf)"), self.guide
        )

    def ask_run_sheet(self) -> None:
        """Ask for the sheet that lies at the bench."""
        self._ask(say("Run sheet"), "run.pdf", say("PDF (*.pdf)"), self.run_sheet)

    def ask_proof_sheet(self) -> None:
        """Ask for the sheet that a customer signs."""
        self._ask(say("Proof sheet"), "proof.pdf", say("PDF (*.pdf)"), self.proof_sheet)

    def ask_estimate(self) -> None:
        """Ask for the file of all figures."""
        self._ask(
            say("Estimate"), "estimate.json", say("JSON (*.json);;CSV (*.csv)"), self.estimate
        )

    def ask_strip(self) -> None:
        """Ask for the file of what is sent to the job's control strip."""
        self._ask(
            say("What is sent to the strip"), f"strip{SUFFIX}", say("Text (*.txt)"), self.strip
        )

    def _ask(self, title: str, proposed: str, kinds: str, write: Callable[[Path], None]) -> None:
        job = self._session.first
        if job is None or not all_taken(self._window):
            return
        beside = self._session.path.parent if self._session.path is not None else Path.home()
        start = (
            Path(self._preferences.exports_folder or beside) / f"{safe_name(job.name)} {proposed}"
        )
        name, _ = QFileDialog.getSaveFileName(self._window, title, str(start), kinds)
        if name:
            path = Path(name)
            write(path if path.suffix else path.with_suffix(Path(proposed).suffix))

    # writing

    def hand_off(self, folder: Path) -> None:
        """Write the files of the job, and say what ink is in them."""
        job, store = self._session.first, self._session.store
        if job is None:
            return
        self._workers.start(
            "hand-off",
            lambda r: ask(handed_off, job.job, store, folder, report=r),
            lambda tickets: self._made_guide(job, _written(tickets, folder)),
            title=say("Writing the hand-off"),
        )

    def _made_guide(self, job: Faced, words: str) -> None:
        guide_was_made(self._session, job)
        self._session.said.emit(words)

    def guide(self, path: Path) -> None:
        """Write the cutting file; its kind is that of its name."""
        job, store = self._session.job, self._session.store
        if job is not None:
            self._workers.start(
                "cutting",
                lambda r: ask(untold, write_cutting_file, job, store, path, report=r),
                lambda _: self._made_guide(job, say("The cutting file is {path}.", path=path)),
                title=say("Writing the cutting file"),
            )

    def run_sheet(self, path: Path) -> None:
        """Write the sheet for the bench."""
        job, findings = self._session.first, self._results.findings
        store = self._session.store
        if job is None or findings is None:
            return
        paper = self._preferences.paper
        told = tuple(
            (c.weight.words, c.text) for c in findings.checks if c.weight is not Weight.NOTE
        )
        self._workers.start(
            "run sheet",
            lambda r: ask(
                untold,
                write_bench_sheet,
                job,
                store,
                findings.estimate,
                told,
                path,
                paper,
                report=r,
            ),
            lambda _: self._session.said.emit(say("The run sheet is {path}.", path=path)),
        )

    def proof_sheet(self, path: Path) -> None:
        """Write the sheet that a customer signs."""
        job, store = self._session.job, self._session.store
        paper = self._preferences.paper
        if job is not None:
            self._workers.start(
                "proof sheet",
                lambda r: ask(untold, write_proof_sheet, job, store, path, paper, report=r),
                lambda _: self._session.said.emit(say("The proof sheet is {path}.", path=path)),
                title=say("Writing the proof sheet"),
            )

    def strip(self, path: Path) -> None:
        """Write what is sent to the control strip, with which its readings are compared later."""
        job, store = self._session.first, self._session.store
        if job is None:
            return

        def work(_: object) -> None:
            found = strip_reference(job, store.profile(job))
            if found is None:
                raise BadInput(say("The control strip is not printed; look at the checks."))
            write_reference(found, path)

        self._workers.start(
            "strip",
            work,
            lambda _: self._session.said.emit(
                say("What is sent to the strip is in {path}.", path=path)
            ),
        )

    def estimate(self, path: Path) -> None:
        """Write all figures; as CSV if the file's name says so."""
        job, store = self._session.first, self._session.store
        if job is None:
            return
        self._workers.start(
            "estimate file",
            lambda r: ask(untold, write_estimate, job, store, path, report=r),
            lambda _: self._session.said.emit(say("The estimate is {path}.", path=path)),
        )


def _written(tickets: tuple[Ticket, ...], folder: Path) -> str:
    """What a hand-off holds, in one sentence."""
    runs = [run for ticket in tickets for run in ticket.runs]
    ink = sum(sum(run.ink_ml.values()) for run in runs)
    sheets = say(" for {tickets} sheets", tickets=len(tickets)) if len(tickets) > 1 else ""
    return say(
        "The hand-off is in {folder}: {runs} runs{sheets} with {ink} ml of ink, and the ticket.",
        folder=folder,
        runs=len(runs),
        sheets=sheets,
        ink=decimal(ink, 2),
    )
