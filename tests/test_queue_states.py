"""The queue's state machine under every sequence of acts, and kills between any two steps.

The press's ledger and the front end's own list are the judges: they know nothing of the queue.
"""

from __future__ import annotations

import errno
import json
import os
import shutil
import tempfile
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any
from unittest.mock import Mock, patch

import pytest
from hypothesis import HealthCheck, settings
from hypothesis import strategies as st
from hypothesis.stateful import Bundle, RuleBasedStateMachine, initialize, invariant, rule

from conftest import sided, small_art, small_job, some
from farbe.files.handoff import hand_off
from farbe.files.jobfile import save_job
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.model.base import BadInput
from farbe.model.layer import COLOUR
from farbe.model.piece import Material, Surface
from farbe.model.placing import Placing
from farbe.model.receiver import Drive, FileFormat
from farbe.model.roll import Roll
from farbe.owners import owner_of
from farbe.press.memory import LEDGER
from farbe.press.service import Service
from farbe.queue import base, shelf, store, tofolder, work
from farbe.queue.base import new_token
from farbe.queue.lanes import work_off
from farbe.queue.store import OPEN, PAST, Added, Queue, State
from farbe.render.footprints import ganged

#: Every so manieth point is tried; all of them with FARBE_EVERY_POINT=1.
STRIDE = 1 if os.environ.get("FARBE_EVERY_POINT") else 6
#: What is added: its lane, what drives that, and the name of the job that is ready for it.
KINDS = {
    "board": ("flatbed", Drive.PRESS, "board"),
    "film": ("roll", Drive.PRESS, "film"),
    "hot": ("other", Drive.FOLDER, "hot"),
}


class Killed(BaseException):
    """The program is gone; whatever it would still do, it does not."""


class Life:
    """Counts the points at which the program, or a press, may die."""

    def __init__(self) -> None:
        self.program: int | None = None
        self.press: int | None = None
        self.dead = False

    def point(self) -> None:
        if self.dead:
            raise Killed
        if self.program is not None:
            self.program -= 1
            if self.program < 0:
                self.dead, self.program = True, None
                raise Killed

    def press_dies(self) -> bool:
        if self.press is None:
            return False
        self.press -= 1
        if self.press >= 0:
            return False
        self.press = None
        return True


class Line:
    """A press in this process, which can die at each thing that it says."""

    def __init__(self, world: World, lane: str) -> None:
        self.world, self.lane = world, lane

    def __enter__(self) -> Line:
        return self

    def __exit__(self, *_: object) -> None:
        pass

    def ask(self, **request: Any) -> dict[str, Any]:
        *_, last = self.steps(**request)
        return last

    def steps(self, **request: Any) -> Iterator[dict[str, Any]]:
        life = self.world.life
        life.point()

        class Dead(Exception):
            pass

        said: list[dict[str, Any]] = []

        def say(**answer: Any) -> None:
            said.append(answer)
            if life.press_dies():
                raise Dead

        try:
            answer = self.world.press(self.lane).answer(request, say)
            if life.press_dies():
                raise Dead
        except Dead:
            self.world.presses.pop(self.lane)
            raise BadInput("The test press stopped in the middle.") from None
        yield from said
        life.point()
        yield {"status": "done"} | answer

    def send(self, folder: Path, *, keep_film: bool = False, token: str = "") -> dict[str, Any]:
        spooled = Path(tempfile.mkdtemp(prefix="job-", dir=self.world.spool(self.lane)))
        shutil.copytree(folder, spooled, dirs_exist_ok=True)
        return self.ask(do="take", folder=str(spooled), keep_film=keep_film, token=token)


class World:
    """Queue, presses and a front end's folder, in one folder of their own."""

    def __init__(self, ready: Path, root: Path) -> None:
        self.ready, self.root, self.life = ready, root, Life()
        self.presses: dict[str, Service] = {}
        self.hot = root / "hot"
        self.hot.mkdir()
        self.taken: Counter[str] = Counter()
        self.art = ArtStore(root / "art")

    def spool(self, lane: str) -> Path:
        folder = self.root / "spools" / lane
        folder.mkdir(parents=True, exist_ok=True)
        return folder

    def press(self, lane: str) -> Service:
        if lane not in self.presses:
            self.presses[lane] = Service(self.spool(lane), 0.0)
        return self.presses[lane]

    def printed(self) -> Counter[tuple[str, str]]:
        found: Counter[tuple[str, str]] = Counter()
        for ledger in (self.root / "spools").glob(f"*/{LEDGER}"):
            for line in ledger.read_text().splitlines():
                one = json.loads(line)
                found[one["token"], one["run"]] += 1
        return found

    def queue(self) -> Queue:
        return Queue(self.root / "queue")

    @contextmanager
    def transaction(self, folder: Path, *, writes: bool = True) -> Iterator[Any]:
        self.life.point()
        with base.transaction(folder, writes=writes) as opened:
            yield opened
            # Dying in a transaction is as if it had not begun.
            self.life.point()
        self.life.point()

    def prepare(self, queue: Queue, number: int, _: ArtStore, report: object = None) -> Path:
        entry = queue.entry(number)
        folder = queue.files_path(entry.token)
        if not entry.prepared:
            shutil.copytree(self.ready / entry.name, folder, dirs_exist_ok=True)
            queue.was_prepared(number)
        return folder

    def patched(self) -> list[Any]:
        def copy(*given: Any) -> int:
            self.life.point()
            return real_copy(*given)

        def give_place(*given: Any) -> None:
            self.life.point()
            real_place(*given)
            self.life.point()

        def opened(queue: Queue, entry: base.Entry, art: ArtStore) -> Any:
            job = real_job(queue, entry, art)
            folder = str(self.hot)
            return job.replace(receiver=job.receiver.replace(folder=folder))

        real_copy, real_place, real_job = tofolder._copy, tofolder._give_place, work.job_of
        return [
            patch.object(store, "transaction", self.transaction),
            patch.object(shelf, "transaction", self.transaction),
            patch.object(work, "prepare", self.prepare),
            patch.object(work, "job_of", opened),
            patch.object(tofolder, "_copy", copy),
            patch.object(tofolder, "_give_place", give_place),
        ]


@pytest.fixture(scope="module")
def ready(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Three small jobs with their hand-offs: on a board, on film with two sides, for a folder."""
    root = tmp_path_factory.mktemp("ready")
    art = ArtStore(root / "art")
    plain = small_job(art, small_art(root / "art.png"))
    plain = plain.replace(
        stack=(COLOUR,), jig=plain.jig.replace(columns=2, rows=1),
        printer=plain.printer.replace(dpi_x=72, dpi_y=72),
        receiver=plain.receiver.replace(formats=(FileFormat.TIFF,)),
    )  # fmt: skip
    front = art.add_artwork(small_art(root / "a.png", 60, 40)).replace(
        width=30.0, height=20.0, quantity=1
    )
    film = plain.replace(
        piece=plain.piece.replace(surface=Surface(material=Material.TEXTILE), height=0.0),
        artworks=(front,), placing=Placing(), bleed=0.0, stack=(COLOUR,), texts=(), table=None,
        medium=Roll(width=60, side=5, lead=14, trail=9, gap=6, line=4),
    )  # fmt: skip
    film = ganged(sided(film, stack=(COLOUR,), artworks=(front,)), art)
    hot = plain.replace(receiver=plain.receiver.replace(drive=Drive.FOLDER))
    for name, job in {"board": plain, "film": film, "hot": hot}.items():
        hand_off(job.job, art, root / name)
        save_job(job.replace(name=name).job, art, root / f"{name}.farbe")
    return root


class Acts(RuleBasedStateMachine):
    """Everything that an operator, a fault or a kill can do, in any order."""

    ready_in: Path
    numbers = Bundle("numbers")

    @initialize()
    def begin(self) -> None:
        self.folder = tempfile.TemporaryDirectory(prefix="farbe-states-")
        self.world = World(self.ready_in, Path(self.folder.name))
        self.patches = self.world.patched()
        for one in self.patches:
            one.start()
        self.added: set[int] = set()
        self.world.queue()

    # acts

    @rule(target=numbers, kind=st.sampled_from(sorted(KINDS)))
    def add(self, kind: str) -> int:
        lane, drive, name = KINDS[kind]
        queue, token = self.world.queue(), new_token()
        shutil.copy(self.world.ready / f"{name}.farbe", queue.job_path(token))
        number = queue.add_all([Added(name, token, lane=lane, drive=drive)])[0]
        self.added.add(number)
        return number

    @rule(number=numbers, act=st.sampled_from(["ask", "ask", "hold", "release", "begin_anew"]))
    def act(self, number: int, act: str) -> None:
        with suppress(BadInput):
            getattr(self.world.queue(), act)(number)

    @rule(number=numbers)
    def cancel(self, number: int) -> None:
        with suppress(BadInput):
            work.cancel(self.world.queue(), number)

    @rule(number=numbers, up=st.booleans())
    def move(self, number: int, up: bool) -> None:
        with suppress(BadInput):
            self.world.queue().move(number, up)

    @rule(
        lane=st.sampled_from([lane for lane, _, _ in KINDS.values()]),
        program=st.none() | st.integers(0, 70), press=st.none() | st.integers(0, 12),
        by_itself=st.booleans(),
    )  # fmt: skip
    def work(self, lane: str, program: int | None, press: int | None, by_itself: bool) -> None:
        """A printer's lane is worked off; the program or the press may die at any step."""
        life = self.world.life
        life.program, life.press = program, press
        with suppress(Killed):
            work_off(
                self.world.queue(), lane, lambda name: Line(self.world, name),  # type: ignore[arg-type, return-value]
                self.world.art, by_itself=lambda: by_itself,
            )  # fmt: skip
        life.program, life.press, life.dead = None, None, False

    @rule(asked=st.none() | numbers)
    def disk_is_full(self, asked: int | None) -> None:
        """Nothing is lost and nothing stops for it; what somebody asked for stays asked for."""
        queue, full = self.world.queue(), OSError(errno.ENOSPC, "full")
        if asked is not None:
            with suppress(BadInput):
                queue.ask(asked)
        lane = KINDS["hot"][0]
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(tofolder, "_copy", Mock(side_effect=full))
            before = queue.next_for(lane, by_itself=True)
            waits = work_off(
                queue, lane, lambda name: Line(self.world, name),  # type: ignore[arg-type, return-value]
                self.world.art, by_itself=lambda: True,
            )  # fmt: skip
        if waits:
            assert before is not None
            after = queue.entry(before.number)
            assert after.state is State.WAITING and "room" in after.note
            assert after.asked == before.asked

    @rule(lane=st.sampled_from(["flatbed", "roll"]))
    def press_restarts(self, lane: str) -> None:
        self.world.presses.pop(lane, None)

    @rule(number=numbers)
    def another_entry_takes_the_bed(self, number: int) -> None:
        """Somebody prints something else on the press by hand."""
        Line(self.world, "flatbed").send(self.world.ready / "board")

    @rule(marked=st.booleans())
    def front_end_takes(self, marked: bool) -> None:
        for path in sorted(self.world.hot.iterdir()):
            if not path.name.startswith("."):
                self.world.taken[path.name] += 1
                shutil.rmtree(path)
        tofolder.look_at_folders(self.world.queue())

    # what must always be

    @invariant()
    def nothing_is_lost_or_printed_twice(self) -> None:
        queue = self.world.queue()
        found = {entry.number: entry for entry in queue.entries((*OPEN, *PAST))}
        assert found.keys() == self.added
        assert all(count == 1 for count in self.world.printed().values())
        assert all(count == 1 for count in self.world.taken.values())
        for entry in found.values():
            assert entry.state is not State.PRINTING
            owner = owner_of(queue.lock_path(entry.token))
            assert owner is not None
            owner.let_go()

    def teardown(self) -> None:
        """In the end everything that is not cancelled prints, whole, and still once."""
        if not hasattr(self, "world"):
            return
        try:
            self._to_the_end()
        finally:
            for one in self.patches:
                one.stop()
            self.folder.cleanup()

    def _to_the_end(self) -> None:
        world, queue = self.world, self.world.queue()
        for _ in range(6):
            for entry in queue.entries(OPEN):
                with suppress(BadInput):
                    queue.ask(entry.number)
            for lane, _, _ in KINDS.values():
                work_off(queue, lane, lambda name: Line(world, name), world.art)  # type: ignore[arg-type, return-value]
            self.front_end_takes(False)
        printed = world.printed()
        for entry in queue.entries((*OPEN, *PAST)):
            if entry.state is State.CANCELLED:
                continue
            if entry.drive is Drive.FOLDER:
                assert entry.state is State.TAKEN, entry
                assert sum(world.taken[name] for name in entry.handed[2:]) == 1
                continue
            assert entry.state is State.DONE, entry
            runs = {run.name for run in read_ticket(world.ready / entry.name).runs}
            assert {run for token, run in printed if token == entry.press_token} == runs
        self.nothing_is_lost_or_printed_twice()


@pytest.mark.parametrize("kind", some(sorted(KINDS), "hot"))
@pytest.mark.parametrize("dies", ["program", "press"])
def test_killed_at_each_point_it_prints_once(
    ready: Path, tmp_path: Path, kind: str, dies: str
) -> None:
    """An entry is worked on and killed at the first point, the next at the second, and so on."""
    if (kind, dies) == ("hot", "press"):
        pytest.skip("a folder has no press")
    acts = type("One", (Acts,), {"ready_in": ready})()
    acts.begin()
    world = acts.world
    at, reached = 0, True
    try:
        while reached:
            number = acts.add(kind)
            world.queue().ask(number)
            setattr(world.life, dies, at)
            with suppress(Killed):
                work_off(world.queue(), KINDS[kind][0], lambda name: Line(world, name), world.art)  # type: ignore[arg-type, return-value]
            reached = getattr(world.life, dies) is None
            world.life.program, world.life.press, world.life.dead = None, None, False
            at += STRIDE if dies == "program" else 1
        assert at > (6 if dies == "press" else 40)
    finally:
        acts.teardown()


@pytest.mark.long
@pytest.mark.parametrize("examples", some([6, 40], 6))
def test_every_sequence_of_acts_and_kills(ready: Path, examples: int) -> None:
    """The seed is fixed; with FARBE_EXAMPLES as many as are wanted are drawn anew."""
    wanted = int(os.environ.get("FARBE_EXAMPLES", "0"))

    class Own(Acts):
        ready_in = ready

    from hypothesis.stateful import run_state_machine_as_test

    run_state_machine_as_test(
        Own,
        settings=settings(
            max_examples=wanted or examples,
            stateful_step_count=30 if wanted else 14,
            derandomize=not wanted,
            suppress_health_check=list(HealthCheck),
        ),
    )  # fmt: skip
