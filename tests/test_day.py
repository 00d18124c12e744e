"""A day in a shop: two printers, a front end's folder, a watched folder, kills, a full disk.

Who says what was printed are the presses' ledgers and the front end; who kills is the test.
"""

from __future__ import annotations

import errno
import json
import os
import random
import signal
import subprocess
import sys
import time
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from itertools import cycle
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from conftest import kill_press, small_art, small_job
from farbe.files.store import ArtStore
from farbe.folders import press_folder, press_folders, queue_folder
from farbe.layout.faced import Faced
from farbe.model.layer import COLOUR
from farbe.model.piece import Surface
from farbe.model.receiver import Drive, FileFormat
from farbe.press.client import LOG_NAME, PressLine, press_of
from farbe.press.machine import TestPress
from farbe.press.memory import LEDGER
from farbe.queue import tofolder
from farbe.queue.lanes import line_to, work_off
from farbe.queue.store import OPEN, PAST, Entry, Queue, State
from farbe.queue.taking import by_job
from farbe.queue.tofolder import look_at_folders
from farbe.queue.watch import to_queue, watch
from farbe.queue.work import add_job, print_again

JOBS, DROPPED = 36, 24
WORKER = """
import faulthandler, signal, sys, time
from pathlib import Path
faulthandler.register(signal.SIGUSR1)
from farbe.files.store import ArtStore
from farbe.folders import queue_folder
from farbe.queue.lanes import line_to, work_off
from farbe.queue.store import Queue
store = ArtStore(Path(sys.argv[2]))
while True:
    work_off(Queue(queue_folder()), sys.argv[1], line_to, store, by_itself=lambda: True)
    time.sleep(0.02)
"""


@contextmanager
def printing(lanes: tuple[str, ...], scratch: Path) -> Iterator[_Programs]:
    """A program for each printer, which may be killed and is started again."""

    def start(lane: str) -> subprocess.Popen[bytes]:
        with (scratch / f"{lane}.said").open("ab") as said:
            return subprocess.Popen(
                [sys.executable, "-c", WORKER, lane, str(scratch / lane)], stderr=said,
                env=os.environ | {"OMP_NUM_THREADS": "1"},
            )  # fmt: skip

    going = {lane: start(lane) for lane in lanes}
    going_on = _Programs(going, start)
    try:
        yield going_on
    finally:
        for one in going_on.values():
            one.kill()
            one.wait()


class _Programs(dict[str, "subprocess.Popen[bytes]"]):
    def __init__(self, going: dict[str, subprocess.Popen[bytes]], start: object) -> None:
        super().__init__(going)
        self._start = start

    def look(self, folder: Path) -> None:
        """Start anew what the system ended for want of memory; what ended otherwise is a fault."""
        for lane, one in self.items():
            ended = one.poll()
            if ended == -signal.SIGKILL:
                self[lane] = self._start(lane)  # type: ignore[operator]
            elif ended is not None:
                pytest.fail(f"{lane} ended: {(folder / f'{lane}.said').read_text()}")

    def said(self, folder: Path) -> str:
        """What they died of, or do just now."""
        for one in self.values():
            if one.poll() is None:
                one.send_signal(signal.SIGUSR1)
        time.sleep(1.0)
        logs = [*folder.glob("*.said"), *(spool / LOG_NAME for spool in press_folders())]
        return "\n".join(f"{log}:\n{log.read_text()[-5000:]}" for log in logs)

    def kill(self, lane: str) -> None:
        self[lane].kill()
        self[lane].wait()
        self[lane] = self._start(lane)  # type: ignore[operator]


def orders(store: ArtStore, art: Path, hot: Path) -> tuple[Faced, Faced, Faced]:
    """A small job for each printer, and one for the front end."""
    plain = small_job(store, art)
    plain = plain.replace(
        stack=(COLOUR,),
        jig=plain.jig.replace(columns=2, rows=2),
        piece=plain.piece.replace(surface=Surface(colour="#ffffff")),
        printer=plain.printer.replace(dpi_x=72, dpi_y=72, bed_width=80, bed_height=60),
        receiver=plain.receiver.replace(formats=(FileFormat.TIFF,)),
    )
    other = plain.replace(printer=plain.printer.replace(name="Other"))
    front = plain.replace(
        printer=plain.printer.replace(name="Third"),
        receiver=plain.receiver.replace(drive=Drive.FOLDER, folder=str(hot)),
    )
    return plain, other, front


class Day:
    """The shop, and what its operator and its front end do."""

    def __init__(self, folder: Path) -> None:
        self.folder, self.hot, self.inbox = folder, folder / "hot", folder / "in"
        self.hot.mkdir(), self.inbox.mkdir()
        self.store, self.queue = ArtStore(folder / "art"), Queue(queue_folder())
        self.art = small_art(folder / "art.png")
        self.jobs = orders(self.store, self.art, self.hot)
        self.taken: Counter[str] = Counter()
        made = cycle([by_job(job.job, self.store) for job in self.jobs[:2]])
        self.dropped = watch(
            self.inbox,
            lambda art: next(made)(art),
            to_queue(self.queue, self.store),
            self.store,
            wait=lambda _: None,
        )

    def add(self, number: int) -> None:
        """An order comes; now and then with artwork that is dropped, good or bad."""
        job = self.jobs[number % 3].replace(name=f"Order {number}")
        add_job(self.queue, job.job, self.store)
        if number % 3 == 0:
            small_art(self.inbox / f"drop {number}.png", 60 + number % 2)
            (self.inbox / f"drop {number} b.png").write_bytes(self.art.read_bytes())
        if number % 9 == 4:
            (self.inbox / f"bad {number}.png").write_bytes(b"nothing")

    def passes(self) -> None:
        """The operator goes on with what stopped; the front end takes what it finds."""
        next(self.dropped)
        for entry in self.queue.entries((State.STOPPED,)):
            # What waits for room on a disk goes on by itself.
            assert entry.drive is Drive.PRESS
            self.queue.ask(entry.number)
        work_off(self.queue, "Third", line_to, self.store, by_itself=lambda: True)
        for path in list(self.hot.iterdir()):
            if not path.name.startswith("."):
                self.taken[path.name] += 1
                path.rename(self.folder / f"front-{path.name}")
        look_at_folders(self.queue)
        for entry in self.queue.entries((State.TAKEN,)):
            self.queue.said_printed(entry.number)

    def until_all_is_done(self, programs: _Programs) -> None:
        until = time.monotonic() + 120
        while self.queue.entries(OPEN) or any(self.inbox.glob("*.png")):
            if time.monotonic() > until:
                for one in self.queue.entries(OPEN):
                    print(one.number, one.lane, one.state, one.asked, one.step, one.note)
                pytest.fail(f"it does not end: {programs.said(self.folder)}")
            programs.look(self.folder)
            self.passes()
            time.sleep(0.02)


@pytest.mark.long
def test_a_day(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    fills, real_copy = iter([True, False, True]), tofolder._copy

    def copy(source: Path, target: Path, report: object) -> int:
        if next(fills, False):
            raise OSError(errno.ENOSPC, "full")
        return real_copy(source, target, report)  # type: ignore[arg-type]

    monkeypatch.setattr(tofolder, "_copy", copy)
    monkeypatch.setattr("farbe.queue.watch.LOOK", 0.0)
    rng, day = random.Random(11), Day(tmp_path)
    with printing(("Small", "Other"), tmp_path) as programs:
        for number in range(JOBS):
            day.add(number)
            if number % 9 == 4:
                programs.kill(rng.choice(["Small", "Other"]))
            day.passes()
            if number == JOBS // 2:
                press_of(press_folder("Small")).close()
                kill_press(press_folder("Small"))
        day.until_all_is_done(programs)
        failed = next(e for e in day.queue.entries(PAST) if e.lane == "Other")
        day.queue.said_printed(failed.number, (2, 4))
        print_again(day.queue, failed.number, day.store)
        day.until_all_is_done(programs)
    assert len(list((day.inbox / "failed").glob("*.png"))) == JOBS // 9
    judge(day.queue, day.taken)
    # What lies on the bed at the end is right.
    for lane, of in (("Small", day.jobs[0]), ("Other", day.jobs[1])):
        looks_right(day.queue, lane, of, tmp_path)


def judge(queue: Queue, taken: Counter[str]) -> None:
    """Every job is done, every run printed once, every hand-over taken once."""
    past = queue.entries(PAST)
    assert len(past) == JOBS + DROPPED + 1
    assert {entry.state for entry in past} == {State.DONE}
    printed: Counter[tuple[str, str]] = Counter()
    for folder in press_folders():
        for line in (folder / LEDGER).read_text().splitlines():
            one = json.loads(line)
            printed[one["token"], one["run"]] += 1
    wanted = {
        (e.token, run) for e in past if e.drive is Drive.PRESS for run in ("guide", "artwork")
    }
    assert set(printed) == wanted and set(printed.values()) == {1}
    names = [name for e in past if e.drive is Drive.FOLDER for name in e.handed[2:]]
    assert taken == Counter(names) and set(taken.values()) == {1} and len(names) == JOBS // 3
    assert [e.pieces for e in past if e.again_of] == [2]
    assert [e.ended for e in past] == sorted((e.ended for e in past), reverse=True)


def looks_right(queue: Queue, lane: str, of: Faced, tmp_path: Path) -> None:
    """The bed of a press as it is looks as a press that never stopped prints the same job."""
    last: Entry = next(e for e in queue.entries(PAST) if e.lane == lane)
    with PressLine(press_folder(lane)) as press:
        assert press.ask(do="status")["token"] == last.press_token
        press.ask(do="picture", path=str(tmp_path / "bed.png"))
    straight = TestPress()
    ticket = straight.take(queue.files_path(last.token))
    straight.print_run("guide", lambda *_: None)
    straight.place()
    straight.print_run("artwork", lambda *_: None)
    assert ticket.printer == of.printer.name
    assert np.array_equal(np.asarray(Image.open(tmp_path / "bed.png")), straight.picture())
