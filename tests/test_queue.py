"""The queue and the press as a service: nothing is lost, whatever stops in the middle."""

from __future__ import annotations

import datetime
import threading
import time
from collections.abc import Callable, Iterator
from itertools import product
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from PIL import Image

from farbe.atomic import CannotWrite
from farbe.estimate.steps import steps
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.layer import COLOUR, WHITE_UNDER
from farbe.model.piece import Reader
from farbe.model.receiver import Delivery, Drive
from farbe.press.client import Press, PressLine, press_of
from farbe.press.service import Service
from farbe.queue import tofolder
from farbe.queue.base import Entry, transaction
from farbe.queue.lanes import line_to
from farbe.queue.store import OPEN, PAST, Queue, State
from farbe.queue.sweep import sweep
from farbe.queue.work import add_job, cancel, carry_out, job_of, prepare, print_entry, repeat
from farbe.render.raster import Cancelled


@pytest.fixture
def queue(tmp_path: Path) -> Queue:
    return Queue(tmp_path / "queue")


@pytest.fixture
def press() -> Iterator[Press]:
    with Press() as line:
        yield line


def states(queue: Queue) -> list[tuple[int, State]]:
    return [(entry.number, entry.state) for entry in queue.entries((*OPEN, *PAST))]


def test_entries_are_held_released_moved_and_cancelled(
    job: Faced, store: ArtStore, queue: Queue
) -> None:
    first, second = add_job(queue, job.job, store), add_job(queue, job.job, store, held=True)
    third = add_job(queue, job.replace(name="Third").job, store)
    assert [e.number for e in queue.entries()] == [first, second, third]
    assert queue.next_waiting().number == first  # type: ignore[union-attr]
    queue.hold(first)
    assert queue.next_waiting().number == third  # type: ignore[union-attr]
    queue.move(third, True), queue.move(third, True), queue.move(third, True)
    assert [e.number for e in queue.entries()] == [third, first, second]
    queue.release(second), queue.cancel(third)
    assert queue.next_waiting().number == second  # type: ignore[union-attr]
    with pytest.raises(BadInput, match="is cancelled; it cannot be held"):
        queue.hold(third)
    claim = queue.begin(second)
    assert claim.entry.state is State.PRINTING
    # Another program sees the same, and cannot print at the same time.
    other = Queue(queue.folder)
    assert other.entry(second).state is State.PRINTING and other.next_waiting() is None
    with pytest.raises(BadInput, match="is printing"):
        other.begin(first)
    with pytest.raises(BadInput, match="cancel it first"):
        other.remove(second)
    other.cancel(second)
    with pytest.raises(BadInput, match="was cancelled while it printed"):
        queue.stepped(second, 1)
    queue.stop(second, "late news")
    assert queue.entry(second).state is State.CANCELLED and not queue.entry(second).note
    queue.remove(third)
    with pytest.raises(BadInput, match="no job 3"):
        queue.entry(third)
    entry = queue.entry(first)
    assert entry.pieces == 12 and entry.seconds > 10 and entry.ink_ml > 0 and entry.price > 0
    assert job_of(queue, entry, store) == job.job


def test_a_job_is_prepared_printed_and_repeated(
    job: Faced, store: ArtStore, queue: Queue, press: Press, tmp_path: Path
) -> None:
    number = add_job(queue, job.job, store, held=True)
    folder = prepare(queue, number, store)
    assert (folder / "ticket.json").is_file() and queue.entry(number).prepared
    seen: list[str] = []
    print_entry(queue, number, press, store, step_done=lambda _, s: seen.append(s.text))
    assert seen == [step.text for step in steps(job)]
    assert queue.entry(number).state is State.DONE and not queue.entries()
    used = press.ask(do="status")["ink_ml"]
    ticket = hand_off(job.job, store, tmp_path / "again")
    for run in ticket.runs:
        for layer in run.layers:
            for ink, channel in zip(layer.inks, layer.channels, strict=True):
                used[ink.casefold()] += run.ink_ml[channel]
    assert used == pytest.approx(dict.fromkeys(used, 500.0), abs=0.011)
    again = repeat(queue, number, store)
    assert queue.entry(again).name == job.name and queue.entries(PAST)[0].number == number


def test_what_stops_in_the_middle_goes_on(
    job: Faced, store: ArtStore, queue: Queue, press: Press, tmp_path: Path
) -> None:
    """An empty tank, then an open cover; in the end the bed looks as if nothing had happened."""
    apart = job.replace(running=job.running.replace(separate=True, dry=60))
    straight = add_job(queue, apart.job, store)
    print_entry(queue, straight, press, store)
    press.ask(do="picture", path=str(tmp_path / "straight.png"))
    number = add_job(queue, apart.job, store)
    press.ask(do="fill", ink="Varnish", ml=0.0)
    with pytest.raises(BadInput, match="no varnish left"):
        print_entry(queue, number, press, store)
    entry = queue.entry(number)
    assert entry.state is State.STOPPED and "no varnish left" in entry.note and entry.step > 3
    assert queue.next_waiting() is None
    press.ask(do="fill")
    press.ask(do="fault", name="cover open")
    assert press.ask(do="status")["why"] == "The cover is open; close it."
    with pytest.raises(BadInput, match="cover is open"):
        print_entry(queue, number, press, store)
    press.ask(do="fault", name="cover open", on=False)
    before = queue.entry(number).step
    done: list[int] = []
    print_entry(queue, number, press, store, step_done=lambda i, _: done.append(i))
    assert done[-1] > before and queue.entry(number).state is State.DONE
    press.ask(do="picture", path=str(tmp_path / "again.png"))
    one, other = (np.asarray(Image.open(tmp_path / f"{n}.png")) for n in ("straight", "again"))
    assert (one == other).all()


@pytest.mark.long
def test_cancelling_stops_between_two_looks(
    job: Faced, store: ArtStore, queue: Queue, press: Press
) -> None:
    number = add_job(queue, job.job, store)

    def report(done: float) -> None:
        if done > 0.7:
            raise Cancelled

    with pytest.raises(Cancelled):
        print_entry(queue, number, press, store, report=report)
    entry = queue.entry(number)
    assert entry.state is State.STOPPED and "by the operator" in entry.note
    queue.release(number)
    assert queue.next_waiting().number == number  # type: ignore[union-attr]


def test_a_cancelled_job_stops_its_press_and_the_next_one_prints(
    job: Faced, store: ArtStore, queue: Queue, press: Press
) -> None:
    """Whoever cancels it, in whatever program; and its press is free for another."""
    first, second = add_job(queue, job.job, store), add_job(queue, job.job, store)
    press.ask(do="pace", pace=2.0)
    press.ask(do="status")
    failed: list[str] = []

    def printing() -> None:
        with PressLine(press.spool) as line, pytest.raises(BadInput) as told:
            print_entry(queue, first, line, store)
        failed.append(str(told.value))

    going = threading.Thread(target=printing)
    going.start()
    while not press.ask(do="status")["running"]:
        time.sleep(0.01)
    with pytest.raises(BadInput, match="is printing; wait"):
        queue.begin(second)
    cancel(Queue(queue.folder), first)
    going.join(20)
    assert failed == ["The job was cancelled while it printed."]
    assert queue.entry(first).state is State.CANCELLED
    press.ask(do="pace", pace=0.0)
    print_entry(queue, second, press, store)
    assert not press.ask(do="status")["running"]
    assert queue.entry(second).state is State.DONE


@pytest.mark.long
@pytest.mark.parametrize("delivery", list(Delivery))
@pytest.mark.parametrize("at_once", [True, False])
def test_what_another_put_into_a_folder_meanwhile_is_not_overwritten(
    job: Faced, store: ArtStore, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    delivery: Delivery, at_once: bool,
) -> None:  # fmt: skip
    """Two machines may give one folder the same names; who comes second waits."""
    hot, queue = tmp_path / "hot", Queue(tmp_path / "queue")
    hot.mkdir()
    copied = tofolder._copied

    def meanwhile(*of: Any) -> tuple[str, ...]:
        names = copied(*of)
        (hot / names[-1]).write_text("another's")
        return names

    if not at_once:
        monkeypatch.setattr("farbe.atomic._renamed", lambda *_: False)
    monkeypatch.setattr(tofolder, "_copied", meanwhile)
    receiver = job.receiver.replace(drive=Drive.FOLDER, folder=str(hot), delivery=delivery)
    number = add_job(queue, job.replace(receiver=receiver).job, store)
    with pytest.raises(CannotWrite, match="lies there already"):
        carry_out(queue, number, line_to, store)
    entry = queue.entry(number)
    last = hot / entry.handed[-1]
    assert entry.state is State.WAITING and last.read_text() == "another's"
    last.unlink()
    carry_out(queue, number, line_to, store)
    assert queue.entry(number).state is State.HANDED
    assert sorted(path.name for path in hot.iterdir()) == sorted(entry.handed[2:])
    assert last.is_dir() is (delivery is Delivery.FOLDER)


@pytest.mark.parametrize(
    ("meanwhile", "state"),
    [
        (lambda queue, number: tofolder.look_at_folders(queue), State.TAKEN),
        (lambda queue, number: queue.said_printed(number), State.DONE),
        (lambda queue, number: queue.remove(number), None),
    ],
)
def test_what_another_window_saw_or_said_before_stays(
    queue: Queue, tmp_path: Path, monkeypatch: pytest.MonkeyPatch,
    meanwhile: Callable[[Queue, int], object], state: State | None,
) -> None:  # fmt: skip
    """All windows look at the folders of front ends, some times a minute."""
    number = queue.add("Tokens", "token")
    with queue.begin(number):
        queue.handing(number, tmp_path, ".ok", ("Tokens 1",))
        queue.handed_over(number)
    (tmp_path / "Tokens 1.ok").touch()
    entries = Queue.entries

    def read(self: Queue, *of: Any) -> list[Entry]:
        found = entries(self, *of)
        monkeypatch.setattr(Queue, "entries", entries)
        meanwhile(Queue(queue.folder), number)
        return found

    monkeypatch.setattr(Queue, "entries", read)
    assert tofolder.look_at_folders(queue) == ()
    assert [entry.state for entry in (*queue.entries(OPEN), *queue.entries(PAST))] == (
        [] if state is None else [state]
    )


def test_old_hand_offs_go_and_history_keeps_its_order_whatever_the_clock_says(
    queue: Queue, monkeypatch: pytest.MonkeyPatch
) -> None:
    times = iter(["2030-01-01T00:00:00.000", "2020-01-01T00:00:00.000"])
    monkeypatch.setattr("farbe.queue.base.now", lambda: next(times))
    numbers = [queue.add(f"Job {i}", f"token-{i}") for i in range(3)]
    for number in numbers:
        queue.job_path(queue.entry(number).token).write_text("job")
        queue.files_path(queue.entry(number).token).mkdir()
    for number in numbers[:2]:
        with queue.begin(number):
            queue.finish(number)
    assert [entry.number for entry in queue.entries(PAST)] == [numbers[1], numbers[0]]
    # What is listed may be gone before it is looked at: another window clears away the same.
    (queue.folder / "files" / "gone").symlink_to("nowhere")
    for days in (-1.0, float("nan"), float("inf")):
        with pytest.raises(BadInput, match="days"):
            sweep(queue, days)
    assert sweep(queue, 30.0, at=datetime.datetime(2025, 1, 1)) == 1
    there = [queue.files_path(queue.entry(number).token).is_dir() for number in numbers]
    assert there == [True, False, True]
    assert queue.job_path("token-1").exists()


def test_two_thousand_entries(queue: Queue) -> None:
    number = queue.add("Job 0", "token-0", held=True)
    rows = [(f"Job {i}", "held" if i % 40 else "done", f"token-{i}") for i in range(1, 2000)]
    with transaction(queue.folder) as base:
        # One transaction, so that the test is quick; the queue's own additions are one each.
        base.executemany(
            "INSERT INTO entry (name, state, place, added, ended, pieces, seconds, ink_ml, price,"
            f" token) SELECT ?, ?, {number} + 1.0 + (SELECT COUNT(*) FROM entry), '', '', 0, 0, 0,"
            " 0, ?",
            rows,
        )
    assert len(queue.entries()) == 1951 and len(queue.entries(PAST)) == 49
    assert queue.entries(PAST, limit=1)[0].name == "Job 1960"
    queue.move(2000, True)
    assert [e.number for e in queue.entries()][-2:] == [2000, 1999]


@pytest.mark.long
def test_the_press_says_why_it_does_not_print(
    job: Faced, store: ArtStore, press: Press, tmp_path: Path
) -> None:
    hand_off(job.job, store, tmp_path / "out")
    press.send(tmp_path / "out", token="mine")
    press.ask(do="print", run="guide")
    press.ask(do="place")
    press.ask(do="height", mm=1.0)
    with pytest.raises(BadInput, match="strikes them"):
        press.ask(do="print", run="artwork")
    found = press.ask(do="status")
    assert found["faults"] == ["head strike"] and found["token"] == "mine" and not found["ready"]
    press.ask(do="fault", name="head strike", on=False)
    with pytest.raises(BadInput, match="no higher than"):
        press.ask(do="height", mm=1000)
    press.ask(do="height", mm=3.0)
    press.ask(do="print", run="artwork")
    assert press.ask(do="status")["complete"] == ["artwork", "guide"]
    for request, words in (
        ({"do": "fly"}, "does not know how to fly"),
        ({"do": "fault", "name": "bored"}, "no fault bored"),
        ({"do": "picture", "path": "x.png", "of": "dream"}, "no picture of dream"),
        ({"do": "print"}, "cannot be read"),
    ):
        with pytest.raises(BadInput, match=words):
            press.ask(**request)


@pytest.mark.long
def test_a_press_that_is_switched_off_makes_place_at_once(tmp_path: Path) -> None:
    spool = tmp_path / "state" / "press"
    for _ in range(4):
        with press_of(spool) as press:
            press.ask(do="fill", ink="Cyan", ml=77.0)
            press.ask(do="quit")
        with pytest.raises(BadInput, match="start it"):
            PressLine(spool)
    with press_of(spool) as press:
        assert press.ask(do="status")["ink_ml"]["cyan"] == 77.0


def test_ink_and_faults_outlive_the_press_and_warmth_does_not(tmp_path: Path) -> None:
    service = Service(tmp_path, 0.0)
    service.answer({"do": "fill", "ink": "White", "ml": 12.5}, lambda **_: None)
    service.answer({"do": "fault", "name": "media out"}, lambda **_: None)
    again = Service(tmp_path, 100.0)
    found = again.answer({"do": "status"}, lambda **_: None)
    assert found["ink_ml"]["white"] == 12.5 and found["faults"] == ["media out"]
    again.answer({"do": "fault", "name": "media out", "on": False}, lambda **_: None)
    cold = again.answer({"do": "status"}, lambda **_: None)
    assert not cold["ready"] and "°C" in cold["why"]
    again.state.on_since -= 2.0
    assert again.answer({"do": "status"}, lambda **_: None)["ready"]


@pytest.mark.long
def test_a_transfer_is_seen_pressed_on_its_garment(
    job: Faced, store: ArtStore, press: Press, tmp_path: Path
) -> None:
    """Printed mirrored with its white last, it reads right on the garment, and its colours show."""
    transfer = job.replace(reader=Reader.TRANSFER, stack=(COLOUR, WHITE_UNDER))
    face = job.replace(stack=(WHITE_UNDER, COLOUR))
    shown = {}
    for name, of, made in (("t", "pressed", transfer), ("f", "piece", face)):
        hand_off(made.job, store, tmp_path / name)
        press.send(tmp_path / name)
        press.ask(do="print", run="guide")
        press.ask(do="place")
        press.ask(do="print", run="artwork")
        press.ask(do="picture", path=str(tmp_path / f"{name}.png"), of=of, number=5)
        shown[name] = np.asarray(Image.open(tmp_path / f"{name}.png")).astype(int)
    middle = (slice(8, -8), slice(8, -8))
    # Each is laid down on whole pixels, one mirrored and one not: a press pixel apart at most.
    by = product((-1, 0, 1), repeat=2)
    off = min(np.abs(np.roll(shown["t"], b, (0, 1)) - shown["f"])[middle].mean() for b in by)
    assert off < 3
    assert np.abs(shown["t"][:, ::-1] - shown["f"])[middle].mean() > 8


@pytest.mark.long
def test_only_one_prints_at_a_time_and_it_can_be_stopped(
    job: Faced, store: ArtStore, press: Press, tmp_path: Path
) -> None:
    hand_off(job.job, store, tmp_path / "out")
    press.send(tmp_path / "out")
    press.ask(do="pace", pace=1.0)
    assert press.ask(do="status")["ready"]
    going = press.steps(do="print", run="guide")
    assert next(going)["status"] == "printing"
    with PressLine(press.spool) as other:
        assert other.ask(do="status")["running"]["run"] == "guide"
        with pytest.raises(BadInput, match="busy"):
            other.ask(do="print", run="guide")
        other.ask(do="stop")
    with pytest.raises(BadInput, match="stopped in the middle"):
        list(going)
    press.ask(do="pace", pace=0.0)
    press.ask(do="print", run="guide")
    assert press.ask(do="status")["complete"] == ["guide"]


def test_drying_that_is_stopped_leaves_the_press_free(press: Press) -> None:
    press.ask(do="pace", pace=1.0)
    drying = press.steps(do="dry", seconds=60)
    assert next(drying)["layer"] == "drying"
    with PressLine(press.spool) as other:
        other.ask(do="stop")
    with pytest.raises(BadInput, match="while it dried"):
        list(drying)
    assert press.ask(do="status")["running"] is None


@pytest.mark.long
def test_a_nozzle_that_is_out_leaves_lines(
    job: Faced, store: ArtStore, press: Press, tmp_path: Path
) -> None:
    shown = []
    for fault in (False, True):
        press.ask(do="fault", name="nozzle out", on=fault)
        assert press.ask(do="status")["ready"]
        hand_off(job.job, store, tmp_path / "out")
        press.send(tmp_path / "out")
        press.ask(do="print", run="guide"), press.ask(do="place")
        press.ask(do="print", run="artwork")
        press.ask(do="picture", path=str(tmp_path / "bed.png"))
        shown.append(np.asarray(Image.open(tmp_path / "bed.png")).astype(int))
    rows = np.abs(shown[0] - shown[1]).sum(axis=(1, 2))
    assert 0 < (rows > 0).mean() < 0.08
