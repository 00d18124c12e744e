"""Checks of what is printed on a roll, and of transfers for several garments."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.colour.lab import difference
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, number
from farbe.layout.laid import allotted
from farbe.layout.rolls import film_length, missing, roll_of_face, sheet_lengths
from farbe.model.artwork import ArtworkFile
from farbe.model.piece import Reader, Surface
from farbe.model.printer import LayerKind
from farbe.model.roll import Packing, Roll
from farbe.optics.view import View, seen_as
from farbe.plan.order import needs_white
from farbe.plan.readers import own_layers
from farbe.plan.stations import Station
from farbe.render.footprints import ganged
from farbe.render.glimpse import Box, Glimpse, part_of
from farbe.render.piece import piece_separation
from farbe.render.sources import Sources
from farbe.said import say, spoken
from farbe.separate.grid import Grid
from farbe.separate.tones import lab_of
from farbe.sidebyside import in_order

#: Mean colour difference, CIEDE2000, above which a transfer is another one on another garment.
OTHER_LOOK = 6.0
#: Bands by which a transfer is judged, and rows of output pixels of each: rows that are next to
#: each other cost hardly more than one.
BANDS, BAND_ROWS = 12, 4
#: Difference in mm by which the sides of a pair may differ.
SAME_SIZE = 0.5
#: Area in mm² that cut lines may share where they but touch.
TOUCH = 0.5


def nest_anew(facts: Facts) -> Fix:
    """A fix that lays all artworks anew.

    Parameters
    ----------
    facts : a job on film
    """
    return Fix(say("Nest anew"), partial(_nested, sources=facts.sources), is_long=True)


def _nested(job: Faced, sources: Sources) -> Faced:
    roll = job.roll
    if roll is not None and roll.packing is Packing.HAND:
        job = job.replace(medium=roll.replace(packing=Packing.BOXES))
    return ganged(job, sources)


@rule(
    "not-on-film",
    "film-too-wide",
    "several-sheets",
    "sheet-too-long",
    on=Roll,
)
def all_lie_on_the_film(facts: Facts) -> Iterator[Check]:
    """All that is wanted lies on the film, and the film is one that the printer takes."""
    job, roll = facts.job, roll_of_face(facts.job)
    for art, short in missing(job):
        what = (
            say("{short} × {file_name} are", short=short, file_name=art.file_name)
            if short > 0
            else say("{short} × {file_name} more", short=-short, file_name=art.file_name)
        )
        words = say("not on the film") if short > 0 else say("than wanted lie on the film")
        broad = short > 0 and _too_broad(roll, art)
        words += say("; it is wider than the film between its margins") if broad else ""
        yield Check(
            "not-on-film", Weight.STOP if short > 0 else Weight.CAUTION, f"{what} {words}.",
            Station.BED, None if broad else nest_anew(facts),
        )  # fmt: skip
    if roll.width > job.printer.bed_width + 1e-6:
        yield Check(
            "film-too-wide",
            Weight.STOP,
            say(
                "The film is {width} wide; {printer} takes {bed_width}. Load narrower film, "
                "or choose another printer.",
                width=measure(roll.width),
                printer=spoken(job.printer.name),
                bed_width=measure(job.printer.bed_width),
            ),
            Station.BED,
        )
    count = len(sheet_lengths(job))
    if count > 1:
        yield Check(
            "several-sheets",
            Weight.NOTE,
            say(
                "What is wanted takes {count} sheets and {film_length} m of film; each is a "
                "hand-off of its own.",
                count=count,
                film_length=number(film_length(job) / 1000),
            ),
            Station.BED,
        )
    if max(sheet_lengths(job)) > roll.longest + 1e-6:
        yield _too_long(facts, max(sheet_lengths(job)))


def _too_long(facts: Facts, length: float) -> Check:
    job, roll = facts.job, roll_of_face(facts.job)
    # Anew it may be shorter; an artwork that is too long by itself stays so.
    side = max if job.two_sided or not roll.turning else min
    own = max((side(art.cropped) for art in job.artworks), default=0.0)
    lines = 2 * roll.line if job.two_sided else 0.0
    short = own + 2 * job.bleed + lines + roll.lead + roll.trail <= roll.longest
    return Check(
        "sheet-too-long",
        Weight.STOP,
        say(
            "The sheet is {length} long and may be {longest}; nest anew, allow a "
            "longer one, or print less at once.",
            length=measure(length),
            longest=measure(roll.longest),
        ),
        Station.BED,
        nest_anew(facts) if short else None,
    )


def _too_broad(roll: Roll, art: ArtworkFile) -> bool:
    """Whether an artwork fits between the film's margins neither upright nor lying."""
    return min(art.cropped) > roll.width - 2 * roll.side + 1e-6


@rule("side-b-missing", "sides-differ", on=Roll)
def sides_of_a_film_agree(facts: Facts) -> Iterator[Check]:
    """Side A and B belong together by pairs, each pair of one size."""
    job, roll = facts.job, roll_of_face(facts.job)
    facing = job.other if job.two_sided else None
    if facing is None or job.came_up is not None:
        return
    behind = {art.key: art for art in facing.artworks}
    front = {art.key: art for art in job.artworks}
    alone_ = [n for n, la in enumerate(roll.places, start=1) if la.behind not in behind]
    if alone_:
        yield Check(
            "side-b-missing",
            Weight.STOP,
            say(
                "Side A {alone} has no side B; raise a quantity on the other side.", alone=alone_[0]
            ),
            Station.BED,
        )
    for which, lies in enumerate(roll.places, start=1):
        one, other = front.get(lies.artwork), behind.get(lies.behind or "")
        if one is None or other is None:
            continue
        far = max(abs(a - b) for a, b in zip(one.cropped, other.cropped, strict=True))
        if far > SAME_SIZE:
            yield Check(
                "sides-differ",
                Weight.STOP,
                say(
                    "Side A and B of pair {which} differ by {far} in size; make them alike.",
                    which=which,
                    far=measure(far),
                ),
                Station.BED,
            )
            break


@rule("garments-without-transfer")
def transfers_are_as_many_as_garments(facts: Facts) -> Iterator[Check]:
    """There is a transfer for each garment."""
    job = facts.job
    if not job.garments or job.reader is not Reader.TRANSFER:
        return
    made, asked = len(allotted(job).prints), sum(garment.count for garment in job.garments)
    if made < asked:
        yield Check(
            "garments-without-transfer",
            Weight.CAUTION,
            say(
                "There are {asked} garments and {made} transfers; raise a quantity.",
                asked=asked,
                made=made,
            ),
            Station.BED,
        )


def _bands(facts: Facts) -> Iterator[Glimpse]:
    """Bands of the print in the pixels that print, spread evenly over it."""
    job = facts.job
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y) if facts.exact else facts.grid
    separation = piece_separation(job, facts.sources, grid, as_read=True)
    width, height = (side / per_mm for side, per_mm in zip(
        separation.size, (grid.per_mm_x, grid.per_mm_y), strict=True))  # fmt: skip

    def band(number: int) -> Glimpse:
        bottom = ((number + 0.5) / BANDS - 0.5) * height
        box = Box(-width / 2, bottom, width, (BAND_ROWS - 0.5) / grid.per_mm_y)
        return part_of(job, facts.sources, separation, box, exact=False)

    yield from in_order(band, range(BANDS))


def _differs(bands: list[tuple[Glimpse, Pixels]], view: View) -> float:
    """Mean colour difference, CIEDE2000, of bands and what they look like otherwise."""
    far: list[npt.NDArray[np.float64]] = []
    for part, own in bands:
        there = part.artwork[..., 3] >= 128
        if there.any():
            look = seen_as(part, view).by(0.0)
            far.append(difference(lab_of(own[there]), lab_of(look[there])))
    return float(np.concatenate(far).mean()) if far else 0.0


@rule("garment-needs-white", "garment-shows", each_print=True)
def transfer_suits_every_garment(facts: Facts) -> Iterator[Check]:
    """One sheet for several garments is right where the transfer looks alike on all of them."""
    job = facts.job
    if job.reader is not Reader.TRANSFER or not job.garments:
        return
    white = any(layer.kind is LayerKind.WHITE for layer in own_layers(job))
    bands: list[tuple[Glimpse, Pixels]] | None = None
    seen_on = dict[str, float]()
    for garment in job.garments:
        surface = Surface(material=job.piece.surface.material, colour=garment.colour)
        words = f"{garment.name} {garment.colour}"
        if not white and needs_white(surface):
            yield Check(
                "garment-needs-white",
                Weight.STOP,
                say(
                    "On {garments} the colour vanishes without white; print a sheet with white for "
                    "it.",
                    garments=words,
                ),
                Station.LAYERS,
            )
            continue
        if garment.colour in seen_on or not white:
            continue
        if bands is None:
            bands = [(part, seen_as(part, View()).by(0.0)) for part in _bands(facts)]
        off = _differs(bands, View(surface=surface))
        seen_on[garment.colour] = off
        if off > OTHER_LOOK:
            yield Check(
                "garment-shows",
                Weight.CAUTION,
                say(
                    "On {garments} the transfer looks another (ΔE {difference} on average): "
                    "its white lets "
                    "the garment show; print a sheet of its own, or lay down more white.",
                    garments=words,
                    difference=f"{off:.0f}",
                ),
                Station.LAYERS,
            )
