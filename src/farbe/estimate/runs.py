"""The runs of a job, in time order."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.sides import needs_own_guide
from farbe.model.layer import Layer
from farbe.plan.order import printing_layers
from farbe.plan.shared import shared_stack

What = Literal["guide", "artwork", "guide-back", "artwork-back"]


@dataclass(frozen=True)
class Run:
    """One trip of the bed.

    Attributes
    ----------
    name : that no other run of the job has
    jobs : what it prints on, as this run sees it, from the side that is up; they share the bed
    layers : what it lays down, substrate up; none for a guide
    """

    name: str
    what: What
    jobs: tuple[Faced, ...]
    layers: tuple[Layer, ...] = ()

    @property
    def job(self) -> Faced:
        """The first of its jobs; they agree in printer, receiver and running."""
        return self.jobs[0]

    @property
    def is_guide(self) -> bool:
        return self.what.startswith("guide")

    @property
    def hits(self) -> int:
        """Number of times that the bed is gone over."""
        if self.is_guide:
            return max(job.guide.hits for job in self.jobs)
        return max((layer.hits for layer in self.layers), default=0)


def runs(job: Faced, *others: Faced) -> tuple[Run, ...]:
    """Guide, layers in one run or in separate ones, and the same for the other side.

    Other jobs may share the bed; then none has another side.

    Parameters
    ----------
    job : as one of its faces has it
    *others : jobs that share its bed
    """
    jobs = (job, *others)
    found = []
    if job.job.again is None or not job.job.again.second_only:
        found += [Run("guide", "guide", jobs)] if carrier_of(job).has_guide else []
        found += _layer_runs(jobs, "artwork")
    other = job.other if job.two_sided else None
    if other is not None:
        if needs_own_guide(job):
            found.append(Run("guide-back", "guide-back", (other,)))
        found += _layer_runs((other,), "artwork-back")
    return tuple(found)


def _layer_runs(jobs: tuple[Faced, ...], what: What) -> list[Run]:
    layers = printing_layers(jobs[0].stack) if len(jobs) == 1 else shared_stack(jobs).layers
    if not jobs[0].running.separate or len(layers) < 2:
        return [Run(what, what, jobs, layers)]
    return [Run(f"{what}-{i}", what, jobs, (layer,)) for i, layer in enumerate(layers, start=1)]
