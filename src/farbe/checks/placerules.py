"""Checks of pockets that are told one by one."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from shapely import STRtree, affinity
from shapely.geometry import Polygon

from farbe.checks.check import Check, Facts, Fix, rule, without_pockets
from farbe.checks.pocketrules import listed
from farbe.checks.weight import Weight
from farbe.layout.bedframe import keep_out_on_bed
from farbe.layout.body import on_rollers
from farbe.layout.carrier import carrier_of
from farbe.layout.cutfile import crossing, cut_page, line_words
from farbe.layout.faced import Faced
from farbe.layout.figures import bare_length
from farbe.layout.guide import jig_code
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.near import least_distance
from farbe.layout.pocketcuts import without_notch
from farbe.model.jig import MadeGuide
from farbe.model.medium import Bed
from farbe.model.piece import Shape
from farbe.plan.stations import Station
from farbe.said import inside, say, say_count, spoken

#: Area in mm² that pieces may share where they but touch.
LEAST_OVERLAP = 0.01


def least_gap(pieces: tuple[LaidPiece, ...], within: float) -> float | None:
    """The least distance in mm between two pieces' outlines; None if all are further apart.

    Parameters
    ----------
    pieces : that lie on one bed
    within : mm that matter
    """
    found = least_distance(pieces, within)
    return found if found is not None and found < within else None


def _lying(job: Faced) -> tuple[tuple[LaidPiece, ...], list[Polygon], STRtree]:
    """Pieces, their outlines on the bed, and what finds those near a place."""
    pieces = laid(job)
    outlines = [affinity.translate(piece.outline, piece.x, piece.y) for piece in pieces]
    return pieces, outlines, STRtree(outlines)


@rule("pockets-overlap", on=Bed)
def pockets_keep_apart(facts: Facts) -> Iterator[Check]:
    """Pockets that are told one by one do not lie over each other."""
    job = facts.job
    if not job.jig.places:
        return
    pieces, outlines, tree = _lying(job)
    met = set[int]()
    for one, other in tree.query(outlines, predicate="intersects").T.tolist():
        if one < other and outlines[one].intersection(outlines[other]).area > LEAST_OVERLAP:
            met |= {pieces[one].number, pieces[other].number}
    if met:
        yield Check(
            "pockets-overlap",
            Weight.STOP,
            say(
                "The pieces of {pockets} lie over each other; move them apart.",
                pockets=inside(listed(tuple(sorted(met)))),
            ),
            Station.BED,
        )


@rule("pocket-in-keep-out", on=Bed)
def pockets_keep_off(facts: Facts) -> Iterator[Check]:
    """Pockets that are told one by one lie on no clamp and no pin."""
    job = facts.job
    if not job.jig.places:
        return
    pieces, outlines, tree = _lying(job)
    zones = [keep_out_on_bed(zone, job.jig.datum, job.printer) for zone in job.jig.keep_outs]
    under = {
        pieces[at].number
        for zone in zones
        for at in tree.query(zone, predicate="intersects").tolist()
        if outlines[at].intersection(zone).area > LEAST_OVERLAP
    }
    if under:
        yield Check(
            "pocket-in-keep-out",
            Weight.STOP,
            say_count(
                len(under),
                "The piece of {pockets} lies on a keep-out; move one of them, or switch it off.",
                "The pieces of {pockets} lie on a keep-out; move them, or switch them off.",
                pockets=inside(listed(tuple(sorted(under)))),
            ),
            Station.BED,
            Fix(say("Switch off"), partial(without_pockets, pockets=frozenset(under))),
        )


def _with_shape(job: Faced, shape: Shape) -> Faced:
    return Faced(job.job.replace(piece=job.job.piece.replace(shape=shape)), job.number)


@rule("piece-not-its-pocket", on=Bed)
def piece_goes_into_its_pockets(facts: Facts) -> Iterator[Check]:
    """Pockets of a board with several kinds are made for the job's piece."""
    job = facts.job.first
    if job.jig.kind >= len(job.jig.kinds):
        return
    kind = job.jig.kinds[job.jig.kind]
    if job.piece.shape != kind.shape:
        yield Check(
            "piece-not-its-pocket",
            Weight.CAUTION,
            say(
                "The board's pockets for {kind} are of another shape than this piece; choose "
                "other pockets, or take their shape.",
                kind=spoken(kind.name),
            ),
            Station.BED,
            Fix(say("Take their shape"), partial(_with_shape, shape=kind.shape)),
        )


def _put_back(job: Faced, made: MadeGuide) -> Faced:
    # What is switched off and how pockets are counted stays.
    jig = made.jig.replace(off=job.jig.off, first_only=job.jig.first_only)
    piece = job.job.piece.replace(shape=made.shape)
    medium = job.loaded(turned=made.bed_turned)
    return Faced(job.job.replace(jig=jig, piece=piece, medium=medium), job.number)


@rule("jig-moved", on=Bed)
def guide_fits_the_jig(facts: Facts) -> Iterator[Check]:
    """Pockets lie where the guide that was printed or cut has them."""
    job, made = facts.job.first, facts.job.job.made_guide
    if made is None or not carrier_of(job).has_guide or jig_code(job) == made.code:
        return
    yield Check(
        "jig-moved",
        Weight.CAUTION,
        say(
            "The guide was made as {made}, and the pockets now are {now}: pieces laid by it get "
            "their print beside them. Put the jig back, or make the guide anew.",
            made=made.code,
            now=jig_code(job),
        ),
        Station.BED,
        Fix(say("Put the jig back"), partial(_put_back, made=made)),
    )


@rule("turned-on-rollers", on=Bed)
def bodies_lie_along_the_rollers(facts: Facts) -> Iterator[Check]:
    """A round body turns about its own axis, which is that of the rollers."""
    job = facts.job
    turned = tuple(piece.number for piece in laid(job) if piece.turn)
    if turned and on_rollers(job):
        yield Check(
            "turned-on-rollers",
            Weight.STOP,
            say(
                "{pockets} is turned, but rollers turn bodies about one axis; turn it back.",
                pockets=listed(turned),
            ),
            Station.BED,
        )


@rule("no-finger-notch", "cut-lines-cross", on=Bed)
def pockets_can_be_cut(facts: Facts) -> Iterator[Check]:
    """The jig can be cut from a sheet, with room for fingers; said of the cutting file alone."""
    job = facts.job
    if not carrier_of(job).has_guide:
        return
    if job.cutting.notch and job.cutting.notch_sides:
        bare = without_notch(job)
        if bare:
            yield Check(
                "no-finger-notch",
                Weight.NOTE,
                say_count(
                    len(bare),
                    "{pockets} has no room for a finger notch beside it; widen the gap.",
                    "{pockets} have no room for a finger notch beside them; widen the gap.",
                    pockets=listed(bare),
                ),
                Station.BED,
                figure=float(len(bare)),
                unit="pockets",
            )
    # Notches keep off by themselves; openings meet where pieces lie closer than their clearance.
    if least_gap(laid(job), 2 * job.cutting.clearance) is None:
        return
    met = crossing(cut_page(job))
    if met is not None:
        one, other, x, y = met
        yield Check(
            "cut-lines-cross",
            Weight.NOTE,
            say(
                "Cut lines of {one} and {other} cross at {x}, {y} mm, so no cutting file can be "
                "written; widen the gap, or give pockets less clearance.",
                one=line_words(one),
                other=line_words(other),
                x=bare_length(x, 1),
                y=bare_length(y, 1),
            ),
            Station.BED,
        )
