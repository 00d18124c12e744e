"""A job's surveys and hand-off by many hands, with the bytes of two."""

from __future__ import annotations

import os
from collections.abc import Callable, Generator, Iterator, Sequence
from contextlib import closing, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.files.ticket import Ticket
from farbe.layout.faced import Faced, faces_of
from farbe.model.job import Job
from farbe.preparing.cluster import Cluster
from farbe.preparing.hands import Hands, Processes, in_order
from farbe.preparing.tasks import StripsTask, SurveyTask, Task, made_by, split_ranges
from farbe.render.raster import Elsewhere, Raster, Report, unwatched
from farbe.sidebyside import WORKERS
from farbe.survey.prints import learn, unseen

#: Bytes of pixels from which strips are made at once.
PART = 48 << 20


@contextmanager
def hands_for(
    store: ArtStore, scheduler: str = "", processes: int | None = None
) -> Iterator[Hands | None]:
    """Who prepares: the workers of a cluster, or processes of this machine.

    Parameters
    ----------
    store : that holds the files
    scheduler : address of a cluster's; empty stays on this machine
    processes : of this machine; None is one for each processor

    Yields
    ------
    None where the threads of this process do as well.

    Raises
    ------
    BadInput
        If the cluster cannot be had.
    """
    count = (os.cpu_count() or 1) if processes is None else processes
    if not scheduler and count <= WORKERS and processes is None:
        yield None
        return
    hands: Hands = Cluster(scheduler, store) if scheduler else Processes(max(1, count), store)
    try:
        yield hands
    finally:
        hands.close()


@dataclass(frozen=True)
class Preparation:
    """A job and who prepares it.

    Attributes
    ----------
    job : that is handed off by itself
    store : that holds its files
    hands : that do parts of it
    done_here : told of each part that no worker did
    ahead : parts of it that are given out at once; 0 is as many as keep all hands busy
    """

    job: Job
    store: ArtStore
    hands: Hands
    done_here: Callable[[], None] = lambda: None
    ahead: int = 0

    def _named(self) -> tuple[str, str, tuple[str, ...]]:
        """What every task of it says."""
        told = self.store.add_bytes(self.job.model_dump_json().encode("utf-8"))
        return made_by(), told, self.store.digests(self.job)

    def _results(self, tasks: Sequence[Task], still_wanted: Callable[[], None]) -> Generator[Any]:
        return in_order(
            self.hands, tasks, self.store, still_wanted, self.done_here, ahead=self.ahead
        )

    def survey(self, report: Report = unwatched) -> None:
        """Have every different print looked at that was not yet; the checks find it looked at.

        Parameters
        ----------
        report : told the share that is done, 0 to 1

        Raises
        ------
        BadInput
            If a file cannot be read.
        Cancelled
            If ``report`` does.
        """
        named = self._named()
        tasks = [
            SurveyTask(*named, face=face.number, number=number)
            for face in faces_of(self.job)
            for number in unseen(face)
        ]
        done = 0.0
        results = self._results(tasks, lambda: report(done))
        with closing(results) as found:
            for at, (task, survey) in enumerate(zip(tasks, found, strict=True), start=1):
                learn(Faced(self.job, task.face), task.number, survey)
                done = at / len(tasks)
                report(done)

    def strips_of(self, run: int, file: int, page: int) -> Elsewhere:
        """What makes the strips of a file of its hand-off.

        Parameters
        ----------
        run, file, page : numbers of the run, of the file in it, and of the page
        """

        def strips(
            raster: Raster, ranges: Sequence[tuple[int, int]], report: Report
        ) -> Iterator[object]:
            width, height = raster.size
            named = self._named()
            parts = split_ranges(ranges, width * len(raster.channels), PART)
            tasks = [
                StripsTask(*named, run=run, file=file, page=page, ranges=part) for part in parts
            ]
            done = 0.0
            results = self._results(tasks, lambda: report(done))
            with closing(results) as found:
                for part, some in zip(parts, found, strict=True):
                    yield from some
                    done = part[-1][1] / height
                    report(done)
            report(1.0)

        return strips

    def hand_off(self, folder: Path, report: Report = unwatched) -> Ticket:
        """Write its hand-off; see :func:`farbe.files.handoff.hand_off`.

        Parameters
        ----------
        folder : that is written or replaced
        report : told the share that is done, 0 to 1
        """
        return hand_off(self.job, self.store, folder, elsewhere=self.strips_of, report=report)
