"""Work of another process: what comes from there, what stays the same, and how it ends."""

from __future__ import annotations

import gc
import os
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from socket import socketpair
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import array_shapes, arrays, scalar_dtypes

from farbe.apart import asking
from farbe.apart.asking import Apart, Fault, ask
from farbe.apart.messages import Answer, Became
from farbe.apart.wire import Line
from farbe.edits.stack import with_choke
from farbe.files.store import ArtStore
from farbe.follows.findings import findings_of
from farbe.follows.looking import LookWanted, Scene, Shown, scene_near, scene_of
from farbe.follows.pictures import pictures_of
from farbe.follows.preview import preview_of, wanted_print
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.layout.figures import Units, use_units
from farbe.model.base import BadInput
from farbe.model.layer import LayerKind
from farbe.optics.view import View
from farbe.plan.alternatives import ARTWORK, alternatives, kept
from farbe.plan.recipes import RECIPES
from farbe.render.glimpse import Box
from farbe.render.raster import Cancelled, unwatched
from farbe.separate.grid import Grid
from workapart import fail, in_parts, refuse, unsendable, who, with_leisure, work


@dataclass(frozen=True, eq=False)
class Plate:
    """Told apart by which it is."""

    name: str
    pixels: Any
    under: Plate | None = None

    @once
    def lock(self) -> threading.Lock:
        """Nothing that could be sent."""
        return threading.Lock()


class Pair:
    """Both ends of a line in one process."""

    def __init__(self) -> None:
        here, there = socketpair()
        self.here, self.there = Line(here), Line(there)

    def through(self, thing: Any) -> Any:
        """What arrives of it."""
        got: list[Any] = []
        other = threading.Thread(target=lambda: got.append(self.there.receive()))
        other.start()
        self.here.send(thing)
        other.join()
        return got[0]

    def close(self) -> None:
        self.here.close(), self.there.close()


@pytest.fixture
def pair() -> Iterator[Pair]:
    made = Pair()
    yield made
    made.close()


@settings(max_examples=60)
@given(
    st.lists(
        arrays(scalar_dtypes(), array_shapes(min_dims=0, max_dims=3, min_side=0, max_side=9)),
        max_size=4,
    ),
    st.booleans(),
)
def test_pixels_arrive_as_they_are(sent: list[Any], turned: bool) -> None:
    """Of any kind and shape, also turned ones, that lie in memory in no order."""
    sent = [one.T[::-1] if turned and one.ndim > 1 else one for one in sent]
    for one in sent[::2]:
        one.setflags(write=False)
    pair = Pair()
    got = pair.through({"pixels": sent, "again": sent[:1]})
    for one, other in zip(sent, got["pixels"], strict=True):
        assert other.dtype == one.dtype and other.shape == one.shape
        assert other.tobytes() == np.ascontiguousarray(one).tobytes()
        assert other.flags.writeable == one.flags.writeable
    assert all(one is other for one, other in zip(got["again"], got["pixels"], strict=False))
    pair.close()


def test_what_is_known_there_stays_the_same_until_it_goes_here(pair: Pair, job: Faced) -> None:
    """Pixels, values of a job, and what is told apart by which it is; of others copies do."""
    under = Plate("white", np.arange(20_000, dtype=np.uint16))
    over = Plate("colour", bytes(9000), under)
    assert over.lock is not None and hash(job)
    first, second = pair.through([over, job, "a"]), pair.through([job, under, over.pixels])
    assert first[0].under is second[1] and first[0].pixels is second[2]
    assert second[1].pixels.tobytes() == under.pixels.tobytes()
    # Hashes of strings differ from process to process: what was worked out of a value stays here.
    assert first[1] == job and first[1] is second[0] and "_hash" not in vars(first[1])
    other = pair.through(job.replace(bleed=9.0))
    assert other.bleed == 9.0 and other.printer is first[1].printer
    known = len(pair.there._received)
    del over, under
    gc.collect()
    assert pair.through(1) == 1 and len(pair.there._received) == known - 3 - 2
    # Blocks of bytes go once many others came; they arrive all the same.
    blocks = [bytes([number]) * 5000 for number in range(40)]
    assert pair.through(blocks) == blocks and pair.through(blocks[::-1]) == blocks[::-1]


def test_a_store_is_the_one_of_its_folder(pair: Pair, store: ArtStore, tmp_path: Path) -> None:
    """With what it has read, where there is one; else one that lasts."""
    assert pair.through(store) is store
    other = ArtStore(tmp_path / "other").__reduce__()
    make, of = other
    assert make(*of) is make(*of) is not store  # type: ignore[operator]


class Counted:
    """An end of a line that counts the bytes that leave it."""

    def __init__(self, end: Any) -> None:
        self._end, self.bytes = end, 0

    def sendall(self, told: Any) -> None:
        self.bytes += memoryview(told).nbytes
        self._end.sendall(told)

    def __getattr__(self, name: str) -> Any:
        return getattr(self._end, name)


def test_of_an_edit_what_it_changes_goes_over_and_its_pixels_come_back(
    job: Faced, store: ArtStore
) -> None:
    """The job goes there once, and does not come back at all."""
    there, back = Pair(), Pair()
    ends = [Counted(line._end) for line in (there.here, back.here)]
    there.here._end, back.here._end = ends
    sizes = list[tuple[int, int, int]]()
    for by in (0.1, 0.11, 0.12):
        stack = tuple(
            with_choke(layer, by) if layer.kind is LayerKind.WHITE else layer for layer in job.stack
        )
        for end in ends:
            end.bytes = 0
        asked = there.through((preview_of, job.replace(stack=stack), 1))
        picture = asked[0](asked[1], 1, store, unwatched, coarse=True)
        got = back.through(picture)
        assert np.array_equal(got.look, picture.look)
        assert [layer.name for layer in got.layers] == [layer.name for layer in picture.layers]
        pixels = sum(one.nbytes for one in (*picture.plates, picture.artwork, picture.look))
        sizes.append((ends[0].bytes, ends[1].bytes, pixels))
    first, *others = sizes
    changed = picture.plates[0].nbytes + picture.look.nbytes
    assert first[0] > 4000 and first[1] > first[2]
    for asked_bytes, came, _ in others:
        assert asked_bytes < first[0] / 4 and came < changed + 2500
    there.close()
    back.close()


def test_what_cannot_be_sent_leaves_the_line_as_it_was(pair: Pair, job: Faced) -> None:
    with pytest.raises((TypeError, AttributeError)):
        pair.here.send([job, threading.Lock()])
    assert pair.through(job) == job


def test_many_send_at_once(pair: Pair) -> None:
    """Each message arrives whole, and names what an earlier one brought."""
    shared = [np.full(50_000, number, np.uint8) for number in range(6)]

    def send(number: int) -> None:
        for step in range(20):
            pair.here.send((number, step, shared[(number + step) % 6], np.full(9, step)))

    senders = [threading.Thread(target=send, args=(number,)) for number in range(6)]
    got: list[Any] = []
    reader = threading.Thread(target=lambda: got.extend(pair.there.receive() for _ in range(120)))
    for one in (reader, *senders):
        one.start()
    for one in (reader, *senders):
        one.join()
    assert sorted((number, step) for number, step, *_ in got) == [
        (number, step) for number in range(6) for step in range(20)
    ]
    assert all((big == (number + step) % 6).all() for number, step, big, _ in got)
    assert all((small == step).all() for _, step, _, small in got)
    assert len({id(big) for _, _, big, _ in got}) == 6


@pytest.fixture
def apart(monkeypatch: pytest.MonkeyPatch) -> Iterator[Apart]:
    monkeypatch.setenv("PYTHONPATH", str(Path(__file__).parent))
    made = Apart()
    yield made
    made.end()


def wait_for(path: Path) -> None:
    until = time.monotonic() + 30
    while not path.exists():
        assert time.monotonic() < until, path.name
        time.sleep(0.01)


def test_work_apart_reports_refuses_fails_and_is_given_up(apart: Apart, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match=r"^A bleed of 25\.4 mm\.$"):
        apart.ask(refuse, "A bleed", report=unwatched)
    use_units(Units.INCHES)
    try:
        with pytest.raises(BadInput, match=r"^A bleed of 1 in\.$"):
            apart.ask(refuse, "A bleed", report=unwatched)
    finally:
        use_units(Units.MM)
    for broken, told in ((fail, "OSError: no film"), (unsendable, "lock")):
        with pytest.raises(Fault, match=told):
            apart.ask(broken, report=unwatched)
    shares: list[float] = []

    def report(done: float) -> None:
        shares.append(done)
        if done > 0.02:
            raise Cancelled

    with pytest.raises(Cancelled):
        apart.ask(work, tmp_path, report=report)
    wait_for(tmp_path / "Cancelled")
    assert shares == sorted(shares) and shares[-1] < 0.5


@pytest.mark.long
def test_it_is_told_once_work_was_asked_for(apart: Apart, monkeypatch: pytest.MonkeyPatch) -> None:
    """A process that stands still is asked as well, and answers when it goes on."""
    # Without looking whether the answer is still wanted, which tells of it later.
    monkeypatch.setattr(asking, "LOOK", 60.0)
    apart.ask(who, report=unwatched)
    os.kill(apart.pid, signal.SIGSTOP)
    asked, answers = threading.Event(), list[int]()

    def once_more() -> None:
        answers.append(apart.ask(who, report=lambda _: asked.set()))

    asks = threading.Thread(target=once_more)
    asks.start()
    try:
        assert asked.wait(10.0) and not answers
    finally:
        os.kill(apart.pid, signal.SIGCONT)
        asks.join()
    assert answers == [apart.pid]


def test_a_process_that_ends_is_said_and_another_begins(apart: Apart, tmp_path: Path) -> None:
    first = apart.ask(who, report=unwatched)
    assert first not in (os.getpid(), None) and apart.ask(who, report=unwatched) == first
    failed: list[str] = []

    def ask() -> None:
        try:
            apart.ask(work, tmp_path, report=unwatched)
        except Fault as error:
            failed.append(str(error))

    waiting = threading.Thread(target=ask)
    waiting.start()
    wait_for(tmp_path / "begun")
    os.kill(first, signal.SIGKILL)
    waiting.join(30)
    assert failed == ["the process that works apart ended"]
    assert apart.ask(who, report=unwatched) != first


@pytest.mark.long
def test_nothing_goes_on_when_nobody_is_left(tmp_path: Path) -> None:
    """The process ends with who began it, however that ended."""
    script = (
        "import sys, threading; from farbe.apart.asking import APART; import workapart as t\n"
        "from pathlib import Path\n"
        "print(APART.ask(t.who, report=lambda _: None), flush=True)\n"
        "APART.ask(t.work, Path(sys.argv[1]), report=lambda _: None)\n"
    )
    here = str(Path(__file__).parent)
    with subprocess.Popen(
        [sys.executable, "-c", script, tmp_path], stdout=subprocess.PIPE, text=True,
        env=os.environ | {"PYTHONPATH": here},
    ) as asking:  # fmt: skip
        assert asking.stdout is not None
        working = int(asking.stdout.readline())
        wait_for(tmp_path / "begun")
        asking.kill()
    until = time.monotonic() + 30
    while Path(f"/proc/{working}").exists() and time.monotonic() < until:
        time.sleep(0.02)
    assert not Path(f"/proc/{working}").exists()


def test_what_is_sent_ahead_is_not_sent_again(
    apart: Apart, monkeypatch: pytest.MonkeyPatch
) -> None:
    """It comes by itself, and is the very same in what comes of the work."""
    came, receive = list[Answer](), Line.receive

    def noted(line: Line) -> Any:
        came.append(receive(line))
        return came[-1]

    monkeypatch.setattr(Line, "receive", noted)
    told = list[Any]()
    first, last = apart.ask(in_parts, ahead=told.append, report=unwatched)
    (part,) = [answer.told for answer in came if answer.became is Became.AHEAD]
    assert told[0] is part
    assert first is part[0] and (first == 1).all() and (last == 2).all()
    # Who does not want it any more makes nothing of it.
    reports = list[float]()

    def left(done: float) -> None:
        reports.append(done)
        if len(reports) > 1:
            raise Cancelled

    with pytest.raises(Cancelled):
        apart.ask(in_parts, ahead=told.append, report=left)
    assert len(told) == 1
    # Where nobody waits in another process, nothing is sent.
    assert (in_parts(report=unwatched)[1] == 2).all()


def test_what_nobody_asked_for_is_made_after_the_answer(apart: Apart, tmp_path: Path) -> None:
    """It ends for what goes before other work alone, and a fault in it holds nothing up."""
    assert apart.ask(with_leisure, tmp_path, report=unwatched) == "all done"
    wait_for(tmp_path / "begun")
    apart.ask(who, report=unwatched)
    time.sleep(0.1)
    assert not (tmp_path / "Cancelled").exists()
    apart.ask(who, report=unwatched, at_once=True)
    wait_for(tmp_path / "Cancelled")
    apart.ask(who, report=unwatched)
    assert not (tmp_path / "the rest").exists()


@pytest.mark.long
def test_what_follows_from_a_job_is_the_same_apart(job: Faced, store: ArtStore) -> None:
    """Pictures, and those that stay; findings, and what mends them."""

    def same(one: Any, other: Any) -> bool:
        return bool(np.array_equal(one, other))

    wanted = wanted_print(job, 1)
    here = preview_of(job, 1, store, unwatched)
    there = ask(preview_of, job, 1, store, report=unwatched)
    assert same(here.look, there.look) and same(here.artwork, there.artwork)
    assert all(map(same, here.plates, there.plates)) and here.layers == there.layers
    shown = there.of(wanted)
    assert shown.job is wanted.of and shown.made_for is wanted.plates
    assert shown.look is there.look and shown.offers == here.offers and not shown.coarse
    bare = job.replace(stack=tuple(layer.replace(treatments=()) for layer in job.stack))
    other = ask(preview_of, bare, 1, store, report=unwatched)
    kept = [one is before for one, before in zip(other.plates, there.plates, strict=True)]
    assert other.artwork is there.artwork and all(kept[1:]) and not kept[0]
    first, second = (ask(pictures_of, job, store, report=unwatched).of(job) for _ in range(2))
    assert list(first.stamps) == list(pictures_of(job, store, unwatched).stamps)
    assert all(second.stamps[what] is one for what, one in first.stamps.items())
    assert all(second.thumbs[key] is one for key, one in first.thumbs.items())
    found = ask(findings_of, bare, store, report=unwatched).of(bare)
    expected = findings_of(bare, store, unwatched)
    assert found.job is bare and found.estimate == expected.estimate
    assert [c.text for c in found.checks] == [c.text for c in expected.checks]
    (fix,) = [check.fix for check in found.checks if check.code == "choke-zero"]
    assert fix is not None and fix.mend(bare).stack[0].choke > 0


@pytest.mark.long
@pytest.mark.parametrize("shown", Shown)
def test_what_is_looked_at_is_the_same_apart(job: Faced, store: ArtStore, shown: Shown) -> None:
    """By any light, from either side, wiped to all that there is, whole and close by."""

    def told(scene: Scene) -> tuple[object, ...]:
        pixels = (scene.look, scene.other, scene.hiding, scene.white and scene.white.bare,
                  scene.reach and scene.reach.far)  # fmt: skip
        return (
            *(None if one is None else one.tobytes() for one in pixels), scene.margins,
            scene.lines and {name: len(lines) for name, lines in scene.lines.items()},
        )  # fmt: skip

    part = ask(preview_of, job, 1, store, report=unwatched).of(wanted_print(job, 1))
    against = (None, ARTWORK, kept(job.replace(stack=job.stack[1:])), *alternatives(job, RECIPES))
    for at, other in enumerate(against if shown is Shown.LOOK else against[:1]):
        view = View(lit=at % 3 / 2, exposure=float(at % 2), other_side=at % 4 > 1)
        wanted = LookWanted(view, shown, other)
        here = scene_of(part, wanted, store, unwatched)
        there = ask(scene_of, part, wanted, store, report=unwatched)
        assert told(there) == told(here)
        assert (here.other is None) == (other in (None, ARTWORK))
        # Of one pixel it is known without all others.
        gain = view.gain(here.seen)
        level = here.seen.light_at(9, 11, view.lit, gain)
        whole = (1 - view.lit) * here.seen.day + view.lit * gain * here.seen.through
        assert np.allclose(level, whole[:, 9, 11], atol=1e-6)
    near = Box(-6.0, -4.0, 11.0, 7.0), Grid(300, 240)
    here = scene_near(job, *near, wanted, store, unwatched)
    there = ask(scene_near, job, *near, wanted, store, report=unwatched)
    assert told(here) == told(there) and here.part.box == there.part.box
