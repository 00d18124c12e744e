"""The beds of runs in which one job is printed, or several."""

from __future__ import annotations

from dataclasses import dataclass, replace

from farbe.layout.faced import Faced
from farbe.layout.guide import guide_ink
from farbe.model.printer import Ink
from farbe.plan.order import channels, channels_of
from farbe.plan.shared import shared_stack
from farbe.render.bed import job_bed
from farbe.render.guide import guide_bed, guide_channel
from farbe.render.piece import channel_infos
from farbe.render.raster import ChannelInfo, Overlaid, Raster
from farbe.render.sources import Sources


@dataclass(frozen=True)
class GuideTrip:
    """An ink that guides are printed in, so many hits of it, and its channel."""

    ink: Ink
    hits: int
    channel: ChannelInfo


def guide_trips(jobs: tuple[Faced, ...]) -> tuple[GuideTrip, ...]:
    """What the guides of jobs on one bed are printed with, each ink and number of hits once.

    Parameters
    ----------
    jobs : that lie on one bed, at least one
    """
    found: dict[tuple[str, int], GuideTrip] = {}
    names: dict[str, int] = {}
    for job in jobs:
        ink, hits = guide_ink(job), job.guide.hits
        if (ink.name, hits) not in found:
            names[ink.name] = names.get(ink.name, 0) + 1
            channel = guide_channel(job)
            if names[ink.name] > 1:
                channel = replace(channel, name=f"{channel.name} {names[ink.name]}")
            found[ink.name, hits] = GuideTrip(ink, hits, channel)
    return tuple(found.values())


def guides_bed(jobs: tuple[Faced, ...]) -> Raster:
    """The guides' run.

    Parameters
    ----------
    jobs : that lie on one bed, at least one
    """
    trips = guide_trips(jobs)
    if len(jobs) == 1:
        return guide_bed(jobs[0])
    places = [
        next(i for i, t in enumerate(trips) if t.ink == guide_ink(job) and t.hits == job.guide.hits)
        for job in jobs
    ]
    parts = tuple((guide_bed(job), (place,)) for job, place in zip(jobs, places, strict=True))
    return Overlaid(parts, tuple(trip.channel for trip in trips))


def artwork_bed(jobs: tuple[Faced, ...], sources: Sources) -> Raster:
    """The artwork's runs, with the channels of all layers.

    Parameters
    ----------
    jobs : one, or several that share the bed
    sources : pixels, fonts and profiles

    Raises
    ------
    BadInput
        If one of the jobs would print nothing.
    """
    if len(jobs) == 1:
        return job_bed(jobs[0], sources)
    shared = shared_stack(jobs)
    whole = channels_of(shared.layers, jobs[0].printer, jobs[0].receiver)
    keys = [(shared.layers.index(c.layer), c.ink.name) for c in whole]
    parts = []
    for job, of in zip(jobs, shared.of, strict=True):
        printing = [layer for layer in job.stack if layer.on]
        own = [(of[printing.index(c.layer)], c.ink.name) for c in channels(job)]
        parts.append((job_bed(job, sources), tuple(keys.index(key) for key in own)))
    return Overlaid(tuple(parts), channel_infos(whole))
