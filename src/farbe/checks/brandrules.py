"""Checks of brand colours."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.colour.lab import difference
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.model.edit import Recolour
from farbe.optics.brand import matched, spot_looks, with_match
from farbe.plan.stations import Station
from farbe.said import say


@rule("brand-colour-off")
def brand_colours_are_met(facts: Facts) -> Iterator[Check]:
    """Inks that are meant to give a brand's colour give it on this surface."""
    job = facts.job
    for place, art in enumerate(job.artworks):
        for at, edit in enumerate(art.edits):
            if not isinstance(edit, Recolour) or not edit.on or edit.aim is None:
                continue
            profile, aim = facts.sources.profile(job), edit.aim
            made = spot_looks(job, profile, np.array([edit.inks]))
            far = float(difference(made, np.array(aim.lab))[0])
            if far <= aim.within:
                continue
            yield Check(
                "brand-colour-off",
                Weight.CAUTION,
                say(
                    "The colour {name} of {file} comes out ΔE00 {far} from what it should be; "
                    "{within} is allowed.",
                    name=aim.name or say("without a name"),
                    file=art.file_name,
                    far=decimal(far, 1),
                    within=decimal(aim.within, 1),
                ),
                Station.LAYERS,
                Fix(say("Match its inks anew"), partial(_matched_anew, place, at, profile)),
                figure=far,
                unit="ΔE00",
            )


def _matched_anew(place: int, at: int, profile: bytes, job: Faced) -> Faced:
    """A job whose recoloured brand colour has the inks that come nearest."""
    art = job.artworks[place]
    edit = art.edits[at]
    if not isinstance(edit, Recolour) or edit.aim is None:
        return job
    fresh = with_match(edit, matched(job, profile, edit.aim.lab))
    arts = (*job.artworks[:place],
            art.replace(edits=(*art.edits[:at], fresh, *art.edits[at + 1 :])),
            *job.artworks[place + 1 :])  # fmt: skip
    return job.replace(artworks=arts)
