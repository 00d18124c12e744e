"""Checks of where artworks lie on film and are cut apart, by the shapes that they really cover."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

import numpy as np
from shapely import MultiPolygon, Polygon, STRtree

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.rollrules import nest_anew
from farbe.checks.weight import Weight
from farbe.layout.carrier import carrier_of
from farbe.layout.cutfile import turned_line
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.rolls import near_boxes, roll_of_face, sheet_start
from farbe.model.base import BadInput
from farbe.model.roll import Cut, Packing, Roll
from farbe.plan.stations import Station
from farbe.render.cutlines import cut_lines
from farbe.render.footprints import ganged
from farbe.render.sources import Sources
from farbe.render.trueshapes import LyingShape, lying_shapes, nearer_than
from farbe.said import say

#: Area in mm² that shapes or cut lines may share where they but touch.
TOUCH = 0.5


@rule("beyond-film", "artworks-meet", "nearer-than-gap", on=Roll)
def artworks_keep_off(facts: Facts) -> Iterator[Check]:
    """What is printed keeps within the film's margins, and off its neighbours by the gap."""
    off = _beyond(facts)
    if off:
        yield Check(
            "beyond-film",
            Weight.STOP,
            say(
                "{off} artworks reach into the film's margins; move them or nest anew.",
                off=len(off),
            ),
            Station.BED,
            nest_anew(facts),
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
            nest_anew(facts),
        )
    near = [pair for pair in _nearer(facts) if pair[1:] not in set(met)]
    if near:
        apart, first, second = near[0]
        more = say("; {near} more pairs are", near=len(near) - 1) if len(near) > 1 else ""
        yield Check(
            "nearer-than-gap",
            Weight.CAUTION,
            say(
                "Artworks {first} and {second} are {apart} apart, nearer than the gap of "
                "{gap}{more}; move one, nest anew, or state a smaller gap.",
                first=first, second=second, apart=measure(apart), more=more,
                gap=measure(roll_of_face(facts.job).gap),
            ),
            Station.BED,
            nest_anew(facts),
            figure=-apart,
        )  # fmt: skip


def _shapes(facts: Facts) -> tuple[LyingShape, ...] | None:
    """What lies there by true shapes; None where that cannot be told."""
    try:
        return lying_shapes(facts.job, facts.sources)
    except BadInput:
        return None  # said by the check of the artwork itself; rectangles are the safe side


def _beyond(facts: Facts) -> list[int]:
    """Numbers of what is printed in the film's margins, at its sides or before its lead."""
    job, roll = facts.job, roll_of_face(facts.job)
    starts: dict[int, float] = {}

    def is_off(number: int, box: tuple[float, float, float, float], slack: float) -> bool:
        sheet = roll.places[number - 1].sheet
        lead = roll.lead + starts.setdefault(sheet, sheet_start(job, sheet))
        left, bottom, right, _ = box
        free = slack - job.bleed + 1e-3
        return (left + free < roll.side or right - free > roll.width - roll.side
                or bottom + free < lead)  # fmt: skip

    found = [piece.number for piece in laid(job) if is_off(piece.number, _box(piece), 0.0)]
    shapes = _shapes(facts) if found else None
    if shapes is None:
        return found
    return [s.number for s in shapes
            if s.number in found and is_off(s.number, s.area.bounds, s.cell)]  # fmt: skip


def _box(piece: LaidPiece) -> tuple[float, float, float, float]:
    wide, high = piece.size[0] / 2, piece.size[1] / 2
    return piece.x - wide, piece.y - high, piece.x + wide, piece.y + high


def _nearer(facts: Facts) -> list[tuple[float, int, int]]:
    """Pairs that are nearer than the gap, by true shapes: mm, and both numbers."""
    job, gap = facts.job, roll_of_face(facts.job).gap + 2 * facts.job.bleed
    near = {number for pair in near_boxes(job, gap) for number in pair}
    if not near or not carrier_of(job).one_sheet:
        return []
    shapes = _shapes(facts)
    if shapes is None:
        return []
    pairs = nearer_than([one for one in shapes if one.number in near], gap)
    return [(max(apart - 2 * job.bleed, 0.0), one, other) for apart, one, other in pairs]


def meeting(facts: Facts) -> list[tuple[int, int]]:
    """Numbers, from 1, of artworks that lie on each other, by what they really cover.

    Parameters
    ----------
    facts : a job on film
    """
    job = facts.job
    pairs = near_boxes(job) if carrier_of(job).one_sheet else []
    shapes = _shapes(facts) if pairs else None
    if shapes is None:
        return pairs
    area = {one.number: one.area for one in shapes}
    return [
        (one, other) for one, other in pairs
        if one in area and other in area and area[one].intersection(area[other]).area > TOUCH
    ]  # fmt: skip


def _nested_in(job: Faced, medium: Roll, sources: Sources) -> Faced:
    return ganged(job.replace(medium=medium), sources)


def _along_shapes(job: Faced) -> Faced:
    return job.replace(medium=roll_of_face(job).replace(cut=Cut.SHAPES))


@rule("nothing-to-cut", "cuts-cross", on=Roll)
def cut_lines_keep_apart(facts: Facts) -> Iterator[Check]:
    """Where artworks are cut along their shapes, no cut runs into another artwork's."""
    job, roll = facts.job, roll_of_face(facts.job)
    try:
        lines = cut_lines(job, facts.sources)
    except BadInput:
        return  # said by the check of the artwork itself
    if roll.cut is Cut.BOXES:
        crossed = set(near_boxes(job)) - set(meeting(facts))
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
                    _along_shapes,
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
        partial(_nested_in, medium=wider, sources=facts.sources),
        is_long=True,
    )
