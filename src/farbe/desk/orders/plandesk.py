"""Works on a plan for the window, one thing after the other, away from its thread."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from farbe.desk.preferences import Preferences
from farbe.desk.session import Session
from farbe.desk.workers import Workers
from farbe.files.jobfile import read_job
from farbe.files.store import ArtStore
from farbe.folders import queue_folder
from farbe.layout.faced import Faced
from farbe.layout.laid import laid
from farbe.model.base import BadInput
from farbe.orders.columns import guessed, matched
from farbe.orders.export import export_orders
from farbe.orders.listfile import read_list
from farbe.orders.order import Mend, Refused
from farbe.orders.plan import Load, Plan, read_plan, write_plan
from farbe.orders.planning import (
    alone,
    moved_load,
    plan_list,
    replanned,
    split_load,
    workshop_for,
)
from farbe.orders.preparing import here_words, prepare_loads
from farbe.orders.sheets import (
    FOLDER,
    PACKING,
    places_words,
    write_load_sheets,
    write_packing_list,
)
from farbe.orders.tracking import put_in_queue, refreshed, with_packed, withdrawn
from farbe.queue.store import Queue
from farbe.render.raster import Report
from farbe.said import say, say_count

#: What a change does: with the plan as the queue knows it, that queue, and the store.
Change = Callable[[Plan, Queue, ArtStore, Report], tuple[Plan, str]]


@dataclass(frozen=True)
class ToMatch:
    """A list whose columns do not say what they are.

    Attributes
    ----------
    path : of the list
    columns : that it has
    guessed : those that were recognised, by what they say
    """

    path: Path
    columns: tuple[str, ...]
    guessed: Mapping[str, str]


#: A plan, and where the pieces of each order lie, in words.
Seen = tuple[Plan, Mapping[str, str]]


def _seen(plan: Plan) -> Seen:
    return plan, places_words(plan)


class PlanDesk(QObject):
    """The plan that is looked at, and what is done with it."""

    #: The plan is another one.
    changed = Signal()
    #: The job of a load was read: its number, and the job.
    seen = Signal(int, object)
    #: Something to be told in one sentence.
    said = Signal(str)
    #: A list's columns are to be matched.
    to_match = Signal(object)
    #: A load's job is to be opened in the main window: its file.
    opened = Signal(object)

    def __init__(self, session: Session, workers: Workers) -> None:
        super().__init__(session)
        self._session, self._workers = session, workers
        self._preferences = Preferences()
        self.folder: Path | None = self._preferences.plan_folder
        self.plan: Plan | None = None
        #: Where the pieces of each order lie, in words.
        self.where: Mapping[str, str] = {}
        self._watched = False

    def watch(self, on: bool) -> None:
        """Follow the queue while somebody looks at the plan, or no longer."""
        self._watched = on
        if on:
            self.look()

    def queue_changed(self) -> None:
        """Look again, if somebody sees it."""
        if self._watched:
            self.look()

    def open_folder(self, folder: Path) -> None:
        """Look at the plan of another folder."""
        if folder != self.folder:
            self.folder = folder
            # Until that is read there are no loads to be chosen, least of all those of another.
            self._show(folder, None)
        self._preferences.plan_folder = folder
        self.look()

    def look(self) -> None:
        """Read the plan again, as far as the queue says."""
        folder = self.folder
        if folder is None:
            return

        def work(_: Report) -> Seen | None:
            plan = read_plan(folder)
            return None if plan is None else _seen(refreshed(plan, Queue(queue_folder())))

        self._workers.start(
            "look at the plan", work, lambda seen: self._show(folder, seen), waits=True
        )

    def _show(self, folder: Path, seen: Seen | None) -> None:
        """Show a plan, unless another folder's is looked at by now."""
        if folder != self.folder:
            return
        plan, where = seen or (None, {})
        if plan != self.plan:
            self.plan, self.where = plan, where
            self.changed.emit()

    # lists

    def take_list(self, path: Path, stated: Mapping[str, str] | None = None) -> None:
        """Plan a list beside it; first ask which column says what, where that is not clear."""
        folder = path.with_name(f"{path.stem} plan")
        if self.plan is not None and self.folder is not None and self.plan.source == str(path):
            folder = self.folder
        store = self._session.store

        def work(report: Report) -> Seen | ToMatch:
            columns = read_list(path).columns
            if not stated:
                try:
                    matched(columns)
                except BadInput:
                    return ToMatch(path, columns, guessed(columns))
            queue = Queue(queue_folder())
            return _seen(plan_list(path, folder, store, queue=queue, stated=stated, report=report))

        def then(found: Seen | ToMatch) -> None:
            if isinstance(found, ToMatch):
                self.to_match.emit(found)
                return
            self.folder = folder
            self._preferences.plan_folder = folder
            self._show(folder, found)
            self.said.emit(_planned_words(found[0]))

        self._workers.in_turn("plan the list", work, then, title=say("Planning the list"))

    def read_again(self) -> None:
        """Plan the list anew, as it is now."""
        if self.plan is not None:
            self.take_list(Path(self.plan.source))

    def mend(self, rows: Iterable[tuple[Refused, Mapping[str, str]]]) -> None:
        """Take rows as they were mended here in place of the list's, and plan them."""
        made = [Mend(was=row.fields, fields=tuple(fields.items())) for row, fields in rows]
        folder, plan = self.folder, self.plan
        if folder is None or plan is None or not made:
            return
        source, store = Path(plan.source), self._session.store

        def work(report: Report) -> Seen:
            with alone(folder):
                known = read_plan(folder)
                if known is not None:
                    write_plan(_with_mends(known, made), folder)
            return _seen(
                plan_list(source, folder, store, queue=Queue(queue_folder()), report=report)
            )

        def then(found: Seen) -> None:
            self._show(folder, found)
            self.said.emit(_planned_words(found[0]))

        self._workers.in_turn("plan the list", work, then, title=say("Planning the list"))

    # loads and orders

    def _change(self, key: str, change: Change, title: str = "") -> None:
        folder, store = self.folder, self._session.store
        if folder is None:
            return

        def work(report: Report) -> tuple[Seen, str]:
            with alone(folder):
                known, queue = read_plan(folder), Queue(queue_folder())
                if known is None:
                    raise BadInput(say("There is no plan in {folder}.", folder=folder))
                plan, words = change(refreshed(known, queue), queue, store, report)
                write_plan(plan, folder)
                return _seen(plan), words

        def then(found: tuple[Seen, str]) -> None:
            self._show(folder, found[0])
            if found[1]:
                self.said.emit(found[1])

        self._workers.in_turn(key, work, then, title=title)

    def queue_loads(self, numbers: list[int]) -> None:
        """Put loads into the queue; none are all that are not held."""
        folder = self.folder or Path()

        def change(plan: Plan, queue: Queue, store: ArtStore, report: Report) -> tuple[Plan, str]:
            made, refused = put_in_queue(plan, queue, folder, store, numbers, report=report)
            count = sum(load.token != "" for load in made.loads)
            words = say_count(count, "One load is in the queue.", "{count} loads are in the queue.")
            return made, " ".join((words, *refused))

        self._change("queue loads", change, say("Looking at the loads"))

    def withdraw(self, numbers: list[int]) -> None:
        """Take loads out of the queue again."""
        self._change("withdraw loads", lambda plan, queue, *_: (
            withdrawn(plan, queue, numbers), ""
        ))  # fmt: skip

    def set_loads(self, numbers: list[int], **fields: bool) -> None:
        """Lock or hold loads, or no longer."""

        def change(plan: Plan, *_: object) -> tuple[Plan, str]:
            for number in numbers:
                plan = plan.with_load(plan.load(number).replace(**fields))
            return plan, ""

        self._change("set loads", change)

    def move(self, number: int, up: bool) -> None:
        """Print a load one place earlier or later."""

        def change(plan: Plan, *_: object) -> tuple[Plan, str]:
            listed = [load.number for load in plan.loads]
            at = listed.index(number)
            behind = listed[at - 1 :] if up else listed[at + 2 :]
            if up and not at:
                return plan, ""
            return moved_load(plan, number, behind[0] if behind else None), ""

        self._change("move loads", change)

    def split(self, number: int, count: int) -> None:
        """Make two loads of one, so many pieces in the first."""
        folder = self.folder or Path()
        self._change("split a load", lambda plan, queue, store, _: (
            split_load(plan, number, count,
                       workshop_for(Path(plan.source), folder, store, queue)), "",
        ))  # fmt: skip

    def plan_again(self) -> None:
        """Put failed pieces on loads again, and all else that is not begun."""
        folder = self.folder or Path()
        self._change("plan again", lambda plan, queue, store, report: (
            replanned(plan, workshop_for(Path(plan.source), folder, store, queue), report=report),
            "",
        ), say("Planning the list"))  # fmt: skip

    def pack(self, numbers: list[str], packed: bool) -> None:
        """Say that orders have left the bench, or are back on it."""
        self._change("pack", lambda plan, *_: (with_packed(plan, numbers, packed), ""))

    # what is written

    def prepare(self, numbers: list[int]) -> None:
        """Write the hand-offs of loads, here or on the cluster of the preferences."""
        folder, plan, store = self.folder, self.plan, self._session.store
        if folder is None or plan is None:
            return
        chosen = plan.with_loads(load for load in plan.loads if load.number in numbers)
        scheduler = self._preferences.scheduler

        def work(report: Report) -> str:
            found = list(prepare_loads(chosen, folder, store, scheduler=scheduler, report=report))
            refused = [one.refused for one in found if one.refused]
            count = len(found) - len(refused)
            words = say_count(count, "One load is prepared.", "{count} loads are prepared.")
            told = [here_words(one) for one in found if one.here]
            return " ".join((words, *told, *refused))

        self._workers.in_turn("prepare loads", work, self.said.emit, title=say("Preparing loads"))

    def write_sheets(self, numbers: list[int], labels: bool) -> None:
        """Write run sheets with pick lists, labels, and the packing list."""
        folder, plan, store = self.folder, self.plan, self._session.store
        if folder is None or plan is None:
            return
        paper = self._preferences.paper

        def work(report: Report) -> str:
            for at, number in enumerate(numbers):
                write_load_sheets(
                    plan.load(number), folder, store, labels=labels, paper=paper,
                    report=lambda done, at=at: report((at + done) / len(numbers)),  # type: ignore[misc]
                )  # fmt: skip
            write_packing_list(plan, folder / FOLDER / PACKING, paper)
            return say("The sheets are in {folder}.", folder=folder / FOLDER)

        self._workers.in_turn("write sheets", work, self.said.emit, title=say("Writing sheets"))

    def export(self, path: Path) -> None:
        """Write all orders with their states."""
        plan = self.plan
        if plan is not None:
            self._workers.in_turn("export orders", lambda _: export_orders(plan, path),
                                  lambda _: self.said.emit(say("The orders are in {path}.",
                                                               path=path)))  # fmt: skip

    def see(self, load: Load) -> None:
        """Read the job of a load, to be shown."""
        folder = self.folder
        if folder is None:
            return
        path = folder / load.job

        def work(_: Report) -> Faced:
            job = Faced(read_job(path))
            # Laid here, so that the window only draws it.
            laid(job)
            return job

        def then(job: Faced) -> None:
            # Loads of another plan have the same numbers.
            if folder == self.folder:
                self.seen.emit(load.number, job)

        self._workers.start("read a load", work, then, waits=True)

    def open_job(self, load: Load) -> None:
        """Open a load's job in the main window."""
        if self.folder is not None:
            self.opened.emit(self.folder / load.job)


def _with_mends(plan: Plan, made: list[Mend]) -> Plan:
    """A plan that knows more rows as they were mended; one mended twice counts as it was last."""
    by_row = {mend.was: mend for mend in plan.mends}
    before = {mend.fields: mend.was for mend in plan.mends}
    for mend in made:
        was = before.get(mend.was, mend.was)
        by_row[was] = Mend(was=was, fields=mend.fields)
    return plan.replace(mends=tuple(by_row.values()))


def _planned_words(plan: Plan) -> str:
    wanted = sum(not order.cancelled for order in plan.orders)
    words = say("{orders} on {loads}.",
                orders=say_count(wanted, "{count} order", "{count} orders"),
                loads=say_count(len(plan.loads), "{count} load", "{count} loads"))  # fmt: skip
    if plan.refused:
        words += " " + say_count(
            len(plan.refused), "One row cannot be made.", "{count} rows cannot be made."
        )
    return words
