"""Checks of what is printed on a roll, and of transfers for several garments."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np
import numpy.typing as npt
from shapely import MultiPolygon, Polygon, STRtree

from farbe.art.artwork import Pixels
from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.carrier import carrier_of
from farbe.layout.cutfile import turned_line
from farbe.layout.faced import Faced
from farbe.layout.figures import measure, number
from farbe.layout.laid import LaidPiece, allotted, laid
from farbe.layout.packing import Mask
from farbe.layout.rolls import film_length, missing, overlapping, roll_of_face, sheet_lengths
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.piece import Reader, Surface
from farbe.model.printer import LayerKind
from farbe.model.roll import Cut, Packing, Roll
from farbe.optics.view import View, seen_as
from farbe.plan.order import needs_white
from farbe.plan.readers import own_layers
from farbe.plan.stations import Station
from farbe.render.cutlines import cut_lines
from farbe.render.footprints import footprints, ganged
from farbe.render.glimpse import Box, Glimpse, part_of
from farbe.render.piece import piece_separation
from farbe.said import say, spoken
from farbe.separate.grid import Grid
from farbe.separate.tones import difference, lab_of

#: Mean colour difference, CIEDE2000, above which a transfer is another one on another garment.
OTHER_LOOK = 6.0
#: Rows of output pixels by which a transfer is judged.
BANDS = 48
#: Difference in mm by which the sides of a pair may differ.
SAME_SIZE = 0.5
#: Area in mm² that cut lines may share where they but touch.
TOUCH = 0.5


def _anew(facts: Facts) -> Fix:
    def nest(job: Faced) -> Faced:
        roll = job.roll
        if roll is not None and roll.packing is Packing.HAND:
            job = job.replace(medium=roll.replace(packing=Packing.BOXES))
        return ganged(job, facts.sources)

    return Fix(say("Nest anew"), nest)


@rule(
    "not-on-film",
    "beyond-film",
    "artworks-meet",
    "film-too-wide",
    "several-sheets",
    "sheet-too-long",
    on=Roll,
)
def all_lie_on_the_film(facts: Facts) -> Iterator[Check]:
    """All that is wanted lies on the film, within its margins and apart."""
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
            Station.BED, None if broad else _anew(facts),
        )  # fmt: skip
    off = [piece.number for piece in laid(job) if not _inside(roll, piece)]
    if off:
        yield Check(
            "beyond-film",
            Weight.STOP,
            say(
                "{off} artworks reach into the film's margins; move them or nest anew.",
                off=len(off),
            ),
            Station.BED,
            _anew(facts),
        )
    met = meeting(facts)
    if met:
        first, second = met[0]
        more = say(", and {met} more do", met=len(met) - 1) if len(met) > 1 else ""
        yield Check(
            "artworks-meet",
            Weight.STOP,
            say(
                "Artworks {first} and {second} lie on each other{more}; move one or nest anew.",
                first=first,
                second=second,
                more=more,
            ),
            Station.BED,
            _anew(facts),
        )
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
    longest, count = max(sheet_lengths(job)), len(sheet_lengths(job))
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
    elif longest > roll.longest + 1e-6:
        # Anew it may be shorter; an artwork that is too long by itself stays so.
        own = max((min(art.cropped) for art in job.artworks), default=0.0)
        short = own + roll.lead + roll.trail <= roll.longest
        yield Check(
            "sheet-too-long",
            Weight.STOP,
            say(
                "The sheet is {length} long and may be {longest}; nest anew, allow a "
                "longer one, or print less at once.",
                length=measure(longest),
                longest=measure(roll.longest),
            ),
            Station.BED,
            _anew(facts) if short else None,
        )


def _too_broad(roll: Roll, art: ArtworkFile) -> bool:
    """Whether an artwork fits between the film's margins neither upright nor lying."""
    return min(art.cropped) > roll.width - 2 * roll.side + 1e-6


def _inside(roll: Roll, piece: LaidPiece) -> bool:
    half = piece.size[0] / 2 + piece.job.bleed
    left, right = piece.x - half, piece.x + half
    return roll.side - 1e-6 <= left and right <= roll.width - roll.side + 1e-6


def meeting(facts: Facts) -> list[tuple[int, int]]:
    """Numbers, from 1, of artworks that lie on each other, by what they really cover.

    Parameters
    ----------
    facts : a job on film
    """
    job = facts.job
    pairs = overlapping(job) if carrier_of(job).one_sheet else []
    if not pairs:
        return []
    try:
        masks = footprints(job, facts.sources)
    except BadInput:
        # Said by the check of the artwork itself; rectangles are the safe side.
        return pairs
    return _covering_each_other(job, masks)


def _covering_each_other(job: Faced, masks: dict[str, Mask]) -> list[tuple[int, int]]:
    """Pairs of artworks that take the same square millimetre of the film."""
    width, length = carrier_of(job).size(job)
    size = math.ceil(length) + 1, math.ceil(width) + 1
    owner, pairs = np.zeros(size, np.int32), list[tuple[int, int]]()
    for place in laid(job):
        if place.what is None or place.what.artwork is None:
            continue
        turned = (place.what.turned or 0) // 90
        cells = np.rot90(masks[place.what.artwork.key], turned)[::-1]
        high, wide = cells.shape
        bottom, left = math.floor(place.y - high / 2 + 1e-6), math.floor(place.x - wide / 2 + 1e-6)
        # What lies beyond the film is another check's.
        low, near = max(0, -bottom), max(0, -left)
        part = owner[max(0, bottom) : bottom + high, max(0, left) : left + wide]
        own = cells[low : low + part.shape[0], near : near + part.shape[1]]
        met = part[own]
        if met.any():
            pairs.append((int(met[met > 0][0]), place.number))
        part[own] = place.number
    return pairs


@rule("nothing-to-cut", "cuts-cross", on=Roll)
def cut_lines_keep_apart(facts: Facts) -> Iterator[Check]:
    """Where artworks are cut along their shapes, no cut runs into another artwork's."""
    job, roll = facts.job, roll_of_face(facts.job)
    try:
        lines = cut_lines(job, facts.sources)
    except BadInput:
        return  # said by the check of the artwork itself
    if roll.cut is Cut.BOXES:
        crossed = set(overlapping(job)) - set(meeting(facts))
        if crossed:
            one, other = min(crossed)
            yield Check(
                "cuts-cross",
                Weight.CAUTION,
                say(
                    "Artworks {one} and {other} interlock; a cut around rectangles runs through "
                    "both.",
                    one=one,
                    other=other,
                ),
                Station.BED,
                Fix(
                    say("Cut along their shapes"),
                    lambda j: j.replace(medium=roll_of_face(j).replace(cut=Cut.SHAPES)),
                ),
            )
        return
    bare = next((art for art in job.artworks if not lines[art.key]), None)
    if bare is not None:
        yield Check(
            "nothing-to-cut",
            Weight.CAUTION,
            say("{file_name} covers nothing, so it gets no cut line.", file_name=bare.file_name),
            Station.BED,
        )
    on = [
        (place, MultiPolygon([
            Polygon(np.add(turned_line(line, place.what.turned or 0), (place.x, place.y)))
            for line in lines[place.what.artwork.key]
        ]))
        for place in laid(job) if place.what is not None and place.what.artwork is not None
    ]  # fmt: skip
    if not on:
        return
    shapes = [shape for _, shape in on]
    first, second = STRtree(shapes).query(shapes, predicate="intersects")
    met = sorted(
        (a, b) for a, b in zip(first.tolist(), second.tolist(), strict=True)
        if a < b and shapes[a].intersection(shapes[b]).area > TOUCH
    )  # fmt: skip
    if met:
        one, other = (on[which][0].number for which in met[0])
        gap = max(roll.gap, 2 * roll.beyond + 0.5)
        yield Check(
            "cuts-cross",
            Weight.CAUTION,
            say(
                "The cut lines of {one} and {other} cross; leave a gap of {gap} or cut closer "
                "to the ink.",
                one=one,
                other=other,
                gap=measure(gap),
            ),
            Station.BED,
            _wider(facts, gap),
        )


def _wider(facts: Facts, gap: float) -> Fix | None:
    """Lay the artworks anew with a wider gap; those laid by hand stay where they are put."""
    roll = roll_of_face(facts.job)
    if roll.packing is Packing.HAND:
        return None
    wider = roll.replace(gap=gap)
    return Fix(
        say("Leave {gap}", gap=measure(gap)),
        lambda job: ganged(job.replace(medium=wider), facts.sources),
    )


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
    """Rows of the print in the pixels that print, spread evenly over it."""
    job = facts.job
    grid = Grid(job.printer.dpi_x, job.printer.dpi_y) if facts.exact else facts.grid
    separation = piece_separation(job, facts.sources, grid, as_read=True)
    width, height = (side / per_mm for side, per_mm in zip(
        separation.size, (grid.per_mm_x, grid.per_mm_y), strict=True))  # fmt: skip
    for number_ in range(BANDS):
        bottom = ((number_ + 0.5) / BANDS - 0.5) * height
        box = Box(-width / 2, bottom, width, 0.5 / grid.per_mm_y)
        yield part_of(job, facts.sources, separation, box, exact=False)


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
