"""Loads prepared by one and by two workers, and what many more would make of a day's orders.

``python benchmarks/scale.py [measure] [speed] [simulate]``: *measure* times each kind of part of
some loads of the sample morning in this process alone and keeps the figures in ``scale.json`` of
``benchmarks/work``; *speed* prepares them on a local Dask cluster of one and of two workers;
*simulate* reckons a day of 10,000 orders for 1 to 64 workers from the figures.
"""

from __future__ import annotations

import heapq
import json
import pickle
import shutil
import statistics
import sys
import tempfile
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict, dataclass
from functools import partial
from itertools import count
from pathlib import Path

from farbe.checks.stops import refuse_stopped
from farbe.files.handoff import hand_off
from farbe.files.jobfile import open_job
from farbe.files.store import ArtStore
from farbe.layout.faced import Faced
from farbe.memory import keep_freed
from farbe.orders.plan import Plan
from farbe.orders.planning import plan_list
from farbe.orders.preparing import FOLDER, LEAST_AT_ONCE, MOST_AT_ONCE, prepare_loads
from farbe.preparing.job import PART
from farbe.preparing.tasks import StripsTask, SurveyTask, do_task, made_by, split_ranges
from farbe.render.raster import Elsewhere, Raster, Report
from farbe.samples.orders import COUNT, write_morning
from farbe.survey.prints import learn, unseen

WORK = Path(__file__).parent / "work"
FIGURES = WORK / "scale.json"
#: One load of each kind of product: lids, film, labels, bottles.
KINDS = ("Lid", "Apron", "Thyme", "Mead")
ORDERS = 10_000
#: Bytes a second of the network, and processors of the machine that asks and merges.
LINK, OWN = 117e6, 2
WORKERS = (1, 2, 4, 8, 16, 32, 64)


@dataclass(frozen=True)
class LoadFigures:
    """What a load of a kind takes: seconds of one processor, and bytes.

    Attributes
    ----------
    kind : of product
    loads : of it in the sample morning
    surveys, strips : of each part
    survey_bytes, strip_bytes : what each part sends back
    own : what the machine that asks does itself, besides putting strips together
    merging : of each part of strips
    sent : what a worker needs of it
    """

    kind: str
    loads: int
    surveys: tuple[float, ...]
    survey_bytes: float
    strips: tuple[float, ...]
    strip_bytes: tuple[float, ...]
    own: float
    merging: float
    sent: float


def morning(folder: Path) -> tuple[Plan, ArtStore]:
    """The plan of the sample morning."""
    store = ArtStore(folder / "store")
    write_morning(folder / "shop", store)
    return plan_list(folder / "shop" / "morning.csv", folder / "plan", store), store


def one_of_each(plan: Plan) -> list[tuple[str, int]]:
    """The number of the first load of each kind."""
    return [(kind, next(load.number for load in plan.loads if load.name.startswith(kind)))
            for kind in KINDS]  # fmt: skip


def measure(folder: Path) -> list[LoadFigures]:
    """Every part of one load of each kind, one after the other in this process."""
    plan, store = morning(folder)
    found = []
    for kind, number in one_of_each(plan):
        job = open_job(folder / "plan" / plan.load(number).job, store)
        told = store.add_bytes(job.model_dump_json().encode())
        named = made_by(), told, store.digests(job)
        surveys, sizes = [], []
        for index in unseen(Faced(job)):
            task = SurveyTask(*named, face=0, number=index)
            start = time.perf_counter()
            survey = do_task(task, str(store.folder))
            surveys.append(time.perf_counter() - start)
            sizes.append(len(pickle.dumps(survey)))
            learn(Faced(job), index, survey)
        strips, lengths = list[float](), list[float]()

        def strips_of(run: int, file: int, page: int, named: tuple = named, strips: list = strips,
                      lengths: list = lengths, job: object = job) -> Elsewhere:  # fmt: skip
            def made(
                raster: Raster, ranges: Sequence[tuple[int, int]], report: Report
            ) -> Iterator[object]:
                wide = raster.size[0] * len(raster.channels)
                for part in split_ranges(ranges, wide, PART):
                    start = time.perf_counter()
                    some = do_task(StripsTask(*named, run, file, page, part), str(store.folder))
                    strips.append(time.perf_counter() - start)
                    lengths.append(len(pickle.dumps(some)))
                    yield from some

            return made

        start = time.perf_counter()
        refuse_stopped(job, store)
        hand_off(job, store, folder / "out", elsewhere=strips_of)
        own = time.perf_counter() - start - sum(strips)
        # The rest of writing a TIFF is small; a tenth of a millisecond a strip is kept for it.
        sent = sum(store.size(digest) for digest in (*named[2], told))
        found.append(LoadFigures(
            kind, sum(load.name.startswith(kind) for load in plan.loads), tuple(surveys),
            statistics.mean(sizes) if sizes else 0.0, tuple(strips), tuple(lengths), own,
            1e-3, sent,
        ))  # fmt: skip
        print(
            f"{kind}: {len(surveys)} surveys {sum(surveys):.1f} s, {len(strips)} parts "
            f"{sum(strips):.1f} s, {sum(lengths) / 1e6:.1f} MB, own {own:.1f} s", flush=True,
        )  # fmt: skip
    WORK.mkdir(exist_ok=True)
    FIGURES.write_text(json.dumps([asdict(one) for one in found], indent=1))
    return found


def speed(folder: Path) -> None:
    """The same loads by this process, and by one and two workers of a local cluster."""
    from distributed import LocalCluster

    plan, _ = morning(folder)
    # The film takes minutes, and tells nothing more of a second worker.
    chosen = {number for kind, number in one_of_each(plan) if kind != "Apron"}
    plan = plan.with_loads(load for load in plan.loads if load.number in chosen)

    def timed(name: str, **how: object) -> float:
        shutil.rmtree(folder / "plan" / FOLDER, ignore_errors=True)
        from farbe.survey import prints

        prints._KEPT = prints.Kept(prints.MOST_KEPT)
        start = time.perf_counter()
        made = list(prepare_loads(plan, folder / "plan", ArtStore(folder / name), **how))  # type: ignore[arg-type]
        took = time.perf_counter() - start
        print(f"{name}: {took:.1f} s, {sum(one.here for one in made)} parts here", flush=True)
        return took

    timed("alone")
    took = []
    for many in (1, 2):
        with LocalCluster(n_workers=many, threads_per_worker=1, dashboard_address=None) as made:
            took.append(timed(f"{many} workers", scheduler=made.scheduler_address))
    print(f"speed-up of the second worker {took[0] / took[1]:.2f}")


@dataclass
class Day:
    """What was reckoned for a day's orders."""

    hours: float
    workers: float
    own: float
    link: float


class Shop:
    """A cluster at work: what happens when, by the clock of a day that is reckoned."""

    def __init__(self, figures: Sequence[LoadFigures], workers: int, own: int) -> None:
        self._loads = a_day(figures)
        self._idle, self._ready = workers, deque[tuple[_Load, float, float]]()
        self._events: list[tuple[float, int, Callable[[float], None]]] = []
        self._number = count()
        self._own, self._link = [0.0] * own, 0.0
        self.busy = {"workers": 0.0, "own": 0.0, "link": 0.0}
        self.end = 0.0

    def run(self, at_once: int) -> None:
        """Prepare all loads, so many of them at once."""
        for _ in range(at_once):
            self._begin(0.0)
        while self._events:
            now, _, act = heapq.heappop(self._events)
            self.end = now
            act(now)

    def _at(self, when: float, act: Callable[[float], None]) -> None:
        heapq.heappush(self._events, (when, next(self._number), act))

    def _begin(self, now: float) -> None:
        one = next(self._loads, None)
        if one is not None:
            load = _Load(one, len(one.surveys))
            self._give(now, [(load, seconds, one.survey_bytes) for seconds in one.surveys])

    def _give(self, now: float, parts: list[tuple[_Load, float, float]]) -> None:
        self._ready.extend(parts)
        while self._idle and self._ready:
            load, seconds, size = self._ready.popleft()
            self._idle -= 1
            self.busy["workers"] += seconds
            self._at(now + seconds, partial(self._done, load, size))

    def _done(self, load: _Load, size: float, now: float) -> None:
        self._idle += 1
        self._at(self._travelled(now, size), partial(self._taken, load))
        self._give(now, [])

    def _travelled(self, now: float, size: float) -> float:
        self._link = max(self._link, now) + size / LINK
        self.busy["link"] += size / LINK
        return self._link

    def _by_own(self, now: float, seconds: float) -> float:
        start = max(heapq.heappop(self._own), now)
        heapq.heappush(self._own, start + seconds)
        self.busy["own"] += seconds
        return start + seconds

    def _taken(self, load: _Load, now: float) -> None:
        load.left -= 1
        if load.surveyed:
            now = self._by_own(now, load.figures.merging)
        if load.left:
            return
        if load.surveyed:
            self._at(now, self._begin)
            return
        load.surveyed, load.left = True, len(load.figures.strips)
        parts = zip(load.figures.strips, load.figures.strip_bytes, strict=True)
        listed = [(load, seconds, size) for seconds, size in parts]
        # What all workers lack of a load is sent before its parts can begin.
        sent = self._travelled(self._by_own(now, load.figures.own), load.figures.sent)
        self._at(sent, lambda when: self._give(when, listed))


@dataclass
class _Load:
    figures: LoadFigures
    left: int
    surveyed: bool = False


def simulate(figures: Sequence[LoadFigures], workers: int, *, own: int = OWN) -> Day:
    """A day's loads, as many at once as :func:`prepare_loads` has.

    Each part goes to the worker that is free first; what it sends back waits for the network, and
    is put together by the machine that asks, which also does what only it can do.
    """
    shop = Shop(figures, workers, own)
    shop.run(max(LEAST_AT_ONCE, min(MOST_AT_ONCE, workers)))
    return Day(shop.end / 3600, shop.busy["workers"] / workers / shop.end,
               shop.busy["own"] / own / shop.end, shop.busy["link"] / shop.end)  # fmt: skip


def a_day(figures: Sequence[LoadFigures]) -> Iterator[LoadFigures]:
    """The loads of some 10,000 orders: as many mornings."""
    mornings = round(ORDERS / COUNT)
    for _ in range(mornings):
        for one in figures:
            yield from [one] * one.loads


def main() -> None:
    keep_freed()
    wanted = sys.argv[1:] or ["measure", "speed", "simulate"]
    with tempfile.TemporaryDirectory(prefix="farbe-scale-") as scratch:
        if "measure" in wanted:
            measure(Path(scratch) / "measure")
        if "speed" in wanted:
            speed(Path(scratch) / "speed")
    if "simulate" in wanted:
        told = [LoadFigures(**{k: tuple(v) if isinstance(v, list) else v for k, v in one.items()})
                for one in json.loads(FIGURES.read_text())]  # fmt: skip
        alone = simulate(told, 1).hours
        print("| workers | hours | times | workers busy | own busy | network busy |")
        print("| --- | --- | --- | --- | --- | --- |")
        for workers in WORKERS:
            day = simulate(told, workers)
            print(f"| {workers} | {day.hours:.1f} | {alone / day.hours:.1f} | {day.workers:.0%} | "
                  f"{day.own:.0%} | {day.link:.0%} |")  # fmt: skip


if __name__ == "__main__":
    main()
