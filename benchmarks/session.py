"""A recorded session: 200 edits over all samples, and how long the window's thread was away.

``python benchmarks/session.py [SAMPLE ...] [--edits N] [--where]``; ``--where`` names the lines in
which it was longest. Edits, with all that follows from them until the next, are told apart from
visits of the next station.
"""

from __future__ import annotations

import argparse
import os
import random
import signal
import statistics
import tempfile
import traceback
from collections import Counter
from collections.abc import Callable, Iterable
from pathlib import Path
from types import FrameType

from windows import Waits, opened, sample, wait

from farbe.desk.app import settle
from farbe.desk.window import MainWindow
from farbe.edits.stack import with_choke
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.model.base import BadInput
from farbe.model.layer import LayerKind
from farbe.model.treatment import Curve
from farbe.plan.stations import Station
from farbe.samples.jobs import SAMPLES

#: Seconds that count as a block, between two looks at where the thread is, and from edit to edit.
BLOCK, LOOK, APART = 0.030, 0.005, 0.25


class Watch(Waits):
    """Gaps between two turns of the event loop, and where the thread was meanwhile."""

    def __init__(self, *, where: bool) -> None:
        super().__init__()
        #: Whether a station is visited, now and at each gap.
        self.visiting = False
        self.visits: list[bool] = []
        self.where: Counter[str] = Counter()
        self._seen = list[str]()
        if where:
            signal.signal(signal.SIGALRM, self._look)
            signal.setitimer(signal.ITIMER_REAL, LOOK, LOOK)

    def _look(self, _: int, frame: FrameType | None) -> None:
        ours = [f for f in traceback.extract_stack(frame) if "/farbe/" in f.filename]
        self._seen.append(" < ".join(
            f"{Path(f.filename).name}:{f.lineno} {f.name}" for f in reversed(ours[-5:])
        ))  # fmt: skip

    def _tick(self) -> None:
        super()._tick()
        self.visits.append(self.visiting)
        seen, self._seen = self._seen, []
        if self.gaps[-1] > BLOCK:
            self.where.update(seen)

    def end(self) -> None:
        signal.setitimer(signal.ITIMER_REAL, 0)
        signal.signal(signal.SIGALRM, signal.SIG_IGN)
        super().end()


class Blocks:
    """Times for which the thread was away, and how much of each it computed itself.

    Those that are long only since others had the processors are counted by themselves.
    """

    def __init__(self, gaps: Iterable[tuple[float, float, float]] = ()) -> None:
        long = [one for one in gaps if one[0] > BLOCK]
        self._all = long
        self._long = [(gap, own) for gap, own, stolen in long if gap - stolen > BLOCK]

    @classmethod
    def of(cls, watch: Watch, *, visits: bool) -> Blocks:
        """Those of a session, of edits or of visits."""
        all_ = zip(watch.gaps, watch.own, watch.stolen, watch.visits, strict=True)
        return cls((gap, own, stolen) for gap, own, stolen, visit in all_ if visit is visits)

    def __add__(self, other: Blocks) -> Blocks:
        return Blocks([*self._all, *other._all])

    def __str__(self) -> str:
        others = len(self._all) - len(self._long)
        more = f" ({others} while others had the processors)" if others else ""
        if not self._long:
            return f"none over 30 ms{more}"
        gaps = [gap for gap, _ in self._long]
        by_itself = sum(own > BLOCK for _, own in self._long)
        middle, longest = 1000 * statistics.median(gaps), 1000 * max(gaps)
        return (
            f"{len(gaps)} over 30 ms ({by_itself} by its own work),"
            f" median of these {middle:.0f}, longest {longest:.0f} ms{more}"
        )


def _layer(job: Faced, kind: LayerKind, change: Callable[..., object]) -> Faced:
    at = next((i for i, la in enumerate(job.stack) if la.kind is kind and job.is_own(la)), None)
    if at is None:
        raise BadInput("no such layer")
    return job.replace(stack=(*job.stack[:at], change(job.stack[at]), *job.stack[at + 1 :]))


def edits(random_: random.Random) -> dict[Station, list[tuple[str, Callable[[Faced], Faced]]]]:
    """What may be edited at each station, each time with another figure."""
    figure = random_.uniform
    return {
        Station.PIECE: [
            ("Height", lambda j: j.replace(piece=j.piece.replace(height=figure(1, 6)))),
            ("Name", lambda j: j.replace(name=f"Job {random_.randint(0, 99)}")),
        ],
        Station.BED: [
            ("Gap", lambda j: j.replace(jig=j.jig.replace(gap_x=figure(3, 5)))),
            ("Artwork x", lambda j: j.replace(placing=j.placing.replace(offset_x=figure(-1, 1)))),
            ("Turn", lambda j: j.replace(placing=j.placing.replace(rotation=figure(0, 20)))),
            ("Label", lambda j: j.replace(marks=j.marks.replace(label=f"{figure(0, 9):.2f}"))),
        ],
        Station.LAYERS: [
            ("Choke", lambda j: _layer(
                j, LayerKind.WHITE, lambda la: with_choke(la, figure(0, 0.3)))),
            ("Curve", lambda j: _layer(j, LayerKind.WHITE, lambda la: la.replace(
                treatments=(*(t for t in la.treatments if not isinstance(t, Curve)),
                            Curve(points=((0, 0), (50, figure(30, 70)), (100, 100))))))),
            ("Hits", lambda j: _layer(j, LayerKind.WHITE, lambda la: la.replace(
                hits=random_.randint(1, 3)))),
        ],
        Station.PROOF: [
            ("Surface", lambda j: j.replace(piece=j.piece.replace(surface=j.piece.surface.replace(
                colour=f"#{random_.randrange(1 << 24):06x}")))),
        ],
        Station.RUN: [
            ("Price", lambda j: j.replace(prices=j.prices.replace(work_hour=figure(20, 40)))),
        ],
    }  # fmt: skip


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("samples", nargs="*", default=list(SAMPLES))
    parser.add_argument("--edits", type=int, default=200)
    parser.add_argument("--where", action="store_true")
    chosen = parser.parse_args()
    keep_freed()
    random_ = random.Random(1)
    with tempfile.TemporaryDirectory() as folder:
        window = opened(Path(folder))
        settle(window)
        edits_, visits = Blocks(), Blocks()
        where: Counter[str] = Counter()
        each = -(-chosen.edits // len(chosen.samples))
        for name in chosen.samples:
            found = recorded(window, name, each, random_, where=chosen.where)
            now = Blocks.of(found, visits=False), Blocks.of(found, visits=True)
            print(f"{name:18} {each} edits: {now[0]}; visits: {now[1]}", flush=True)
            edits_, visits = edits_ + now[0], visits + now[1]
            where += found.where
        print(f"all edits: {edits_}\nall visits: {visits}")
        for line, count in where.most_common(25):
            print(f"  {1000 * count * LOOK:6.0f} ms  {line}")
        os._exit(0)


def recorded(
    window: MainWindow, of: str, count: int, random_: random.Random, *, where: bool
) -> Watch:
    """Edits of a sample at one station after the other, watched."""
    window.session.take(sample(of, window.session.store), saved=True)
    settle(window)
    for station in Station:
        window.visit(station)
        settle(window)
    watch, choices = Watch(where=where), edits(random_)
    stations = list(choices)
    for number in range(count):
        station = stations[number * len(stations) // count]
        watch.visiting = True
        window.visit(station)
        wait(APART)
        watch.visiting = False
        name, change = random_.choice(choices[station])
        try:
            window.session.edit(name, change)
        except BadInput:
            continue
        wait(APART)
    while window.workers.busy():
        wait(0.02)
    watch.end()
    return watch


main()
