"""The runs of a job, in time order."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from farbe.layout.sides import needs_own_guide, turned_over
from farbe.model.job import Job
from farbe.model.layer import Layer
from farbe.plan.order import printing_layers

What = Literal["guide", "artwork", "guide-back", "artwork-back"]


@dataclass(frozen=True)
class Run:
    """One trip of the bed.

    Attributes
    ----------
    name : that no other run of the job has
    job : as this run sees it, from the side that is up
    layers : what it lays down, substrate up; none for a guide
    """

    name: str
    what: What
    job: Job
    layers: tuple[Layer, ...] = ()

    @property
    def is_guide(self) -> bool:
        return self.what.startswith("guide")

    @property
    def hits(self) -> int:
        """Times that the bed is gone over."""
        if self.is_guide:
            return self.job.guide.hits
        return max((layer.hits for layer in self.layers), default=0)


def runs(job: Job) -> tuple[Run, ...]:
    """Guide, layers in one run or in separate ones, and the same for the other side."""
    found = [Run("guide", "guide", job), *_layer_runs(job, "artwork")]
    if job.back is not None:
        other = turned_over(job)
        if needs_own_guide(job):
            found.append(Run("guide-back", "guide-back", other))
        found += _layer_runs(other, "artwork-back")
    return tuple(found)


def _layer_runs(job: Job, what: What) -> list[Run]:
    layers = printing_layers(job.stack)
    if not job.running.separate or len(layers) < 2:
        return [Run(what, what, job, layers)]
    return [Run(f"{what}-{i}", what, job, (layer,)) for i, layer in enumerate(layers, start=1)]
