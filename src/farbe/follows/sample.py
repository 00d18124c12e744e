"""A sample, drawn for whoever looks at it next."""

from __future__ import annotations

from farbe.files.store import ArtStore
from farbe.model.job import Job
from farbe.render.raster import Report
from farbe.samples.jobs import SAMPLES


def drawn_sample(name: str, store: ArtStore, report: Report) -> Job:
    """The job of a sample, with its artwork drawn.

    Parameters
    ----------
    name : of the sample
    store : for its artwork
    report : is told how far it is
    """
    report(0.0)
    return SAMPLES[name](store)
