"""Checks of ink and artwork as they print: limits, fine detail, edges of the piece."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from farbe.checks.check import Check, Facts, Fix, rule, with_part
from farbe.checks.found import area_words, found, layers_with
from farbe.checks.weight import Weight
from farbe.checks.whiterules import each_layer, surface_words
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal, measure, number
from farbe.layout.placing import artwork_box
from farbe.model.layer import Layer
from farbe.model.placing import Fit, Placing
from farbe.model.printer import Ink
from farbe.plan.stations import Station
from farbe.render.inklimits import ink_limits
from farbe.said import inside, say, say_count, spoken
from farbe.survey.survey import Matter, Survey

#: Area in mm² of detail that is too fine, under which it is dirt rather than drawing.
DETAIL_AREA = 0.4
#: Ink without artwork in mm², and its share of the piece, that is asked about.
BEYOND_AREA, BEYOND_SHARE = 100.0, 0.1
#: Share of the artwork that hardly differs from the surface, for a word and for a caution.
ALIKE_NOTE, ALIKE_CAUTION = 0.02, 0.2
#: Share of the artwork and mm by which it is cut off, above which it is asked about.
CUT_SHARE, CUT_FAR = 0.01, 3.0
#: Share by which artwork may be printed at another size than its file states.
SAME_SIZE = 0.005


@rule("artwork-off-piece", "part-empty")
def artwork_on_piece(facts: Facts) -> Iterator[Check]:
    """The artwork lies on the piece."""
    missed = [one for one in facts.surveys if one.what.artwork is not None and not one.survey.shape]
    if not missed:
        return
    if facts.job.parts is not None:
        bare = sum(len(one.pockets) for one in missed)
        yield Check(
            "part-empty",
            Weight.NOTE,
            say_count(
                bare,
                "One part has nothing of the artwork on it: its piece stays bare.",
                "{count} parts have nothing of the artwork on them: their pieces stay bare.",
            ),
            Station.BED,
            count=len(missed),
        )
        return
    pockets = missed[0].pockets
    yield Check(
        "artwork-off-piece",
        Weight.STOP,
        say("No part of the artwork lies on the piece, so nothing prints")
        + (say("; so in {missed} prints.", missed=len(missed)) if len(missed) > 1 else "."),
        Station.BED,
        Fix(say("Put it in the middle"), partial(_in_the_middle, pockets=frozenset(pockets))),
        count=len(missed),
    )


def _in_the_middle(job: Faced, *, pockets: frozenset[int]) -> Faced:
    """The artwork back on its piece; its size, turn and mirroring stay."""
    plain = Placing()
    placing = job.placing.replace(
        offset_x=0.0, offset_y=0.0, across=plain.across, along=plain.along
    )
    changes = tuple(
        change.replace(offset_x=0.0, offset_y=0.0) if change.pocket in pockets else change
        for change in job.changes
    )
    return job.replace(placing=placing, changes=changes)


@rule("ink-over-total", "film-too-thick")
def ink_is_within_limits(facts: Facts) -> Iterator[Check]:
    """Process ink and the whole film stay under their limits."""
    job, printer = facts.job, facts.job.machine
    over = found(facts, Matter.OVER_TOTAL)
    if over is not None:
        yield Check(
            "ink-over-total",
            Weight.CAUTION,
            say(
                "Process inks reach {worst} % on {area}{on}; the job's limit is {total} %. "
                "Take a colour layer off, or raise it.",
                worst=f"{over.worst:.0f}",
                area=area_words(over.area),
                on=over.on,
                total=number(ink_limits(job).total),
            ),
            Station.LAYERS,
            figure=over.area,
            unit="mm²",
            places=over.places,
            count=over.prints,
        )
    thick = found(facts, Matter.OVER_FILM)
    if thick is not None:
        most = max((la for la in job.stack if la.on), key=lambda la: la.hits)
        yield Check(
            "film-too-thick",
            Weight.STOP if thick.worst > 2 * printer.most_film else Weight.CAUTION,
            say(
                "All layers together lay down {worst} ml/m² on {area}{on}; {printer} cures "
                "{most_film} ml/m².",
                worst=f"{thick.worst:.0f}",
                area=area_words(thick.area),
                on=thick.on,
                printer=spoken(printer.name),
                most_film=number(printer.most_film),
            ),
            Station.LAYERS,
            Fix(
                say("Fewer hits of {most}", most=most.name),
                partial(_fewer, name=most.name, share=printer.most_film / thick.worst),
            )
            if most.hits > 1
            else None,
            figure=thick.worst,
            unit="ml/m²",
            places=thick.places,
            count=thick.prints,
        )


def _fewer(job: Faced, *, name: str, share: float) -> Faced:
    """The job with fewer hits of a layer, so that the whole is under the limit."""

    def fewer(layer: Layer) -> Layer:
        inks = job.machine.inks_of(layer.kind, layer.ink)
        laid = job.machine.laid(inks[0]) if inks else 1.0
        over = (1.0 - share) * job.machine.most_film / share
        return layer.replace(hits=max(1, int(layer.hits - over / max(laid, 0.1))))

    return each_layer(job, fewer, name=name)


@rule("strokes-fine", "gaps-fine")
def detail_prints(facts: Facts) -> Iterator[Check]:
    """Strokes and gaps are as wide as their ink prints."""
    yield from _fine(
        "strokes-fine",
        facts,
        Matter.STROKE,
        say("Strokes"),
        say("break or vanish"),
        lambda ink: ink.stroke,
    )
    yield from _fine("gaps-fine", facts, Matter.GAP, say("Gaps"), "fill", lambda ink: ink.gap)


def _fine(
    code: str, facts: Facts, matter: Matter, what: str, how: str, least: Callable[[Ink], float]
) -> Iterator[Check]:
    job = facts.job
    inks = {la.name: job.machine.inks_of(la.kind, la.ink) for la in job.stack}
    for name in layers_with(facts, matter):
        fine = found(facts, matter, layer=name)
        if fine is None or fine.area < DETAIL_AREA or not inks.get(name):
            continue
        # Of process inks black comes last; strokes and gaps are judged by it.
        prints = least(inks[name][-1])
        yield Check(
            code,
            Weight.CAUTION,
            say(
                "{what} of {name} down to {worst}, on {area}{on}, {how}: {printer} prints "
                "{prints}. Draw them wider, or print larger.",
                what=what,
                name=inside(spoken(name)),
                worst=measure(round(max(fine.worst, 0.01), 2)),
                area=area_words(fine.area),
                on=fine.on,
                how=how,
                printer=spoken(job.printer.name),
                prints=measure(prints),
            ),
            Station.LAYERS,
            figure=fine.area,
            unit="mm²",
            places=fine.places,
            count=fine.prints,
            about=name,
        )


@rule("ink-beyond")
def ink_beyond_artwork(facts: Facts) -> Iterator[Check]:
    """Options that flood a piece are asked about once, with what they cost."""
    job = facts.job
    layers = {la.name: la for la in job.stack}
    for name in layers_with(facts, Matter.BEYOND):
        layer = layers.get(name)
        # Without artwork all ink is meant.
        drawn = any(one.what.artwork is not None for one in facts.surveys)
        if layer is None or layer.meant or not drawn:
            continue
        beyond = found(facts, Matter.BEYOND, layer=name, of=_canvas)
        if beyond is None or beyond.area <= BEYOND_AREA or beyond.share <= BEYOND_SHARE:
            continue
        inks = job.machine.inks_of(layer.kind, layer.ink)
        each = beyond.area / 1e6 * (job.machine.laid(inks[0]) if inks else 0.0) * layer.hits
        yield Check(
            "ink-beyond",
            Weight.CAUTION,
            say(
                "{name} lays ink on {area} cm² of each piece where there is no artwork, "
                "{each} ml a piece: is that meant?",
                name=name,
                area=f"{beyond.area / 100:.0f}",
                each=decimal(each, 2),
            ),
            Station.LAYERS,
            figure=beyond.area,
            unit="mm²",
            places=beyond.places,
            count=beyond.prints,
            about=name,
        )


def _canvas(survey: Survey) -> float:
    """Mm² of the whole canvas that was looked at."""
    width, height = survey.size
    return width * height / (survey.grid.per_mm_x * survey.grid.per_mm_y)


@rule("short-of-bleed", "short-of-edge", "cut-off")
def artwork_meets_the_edge(facts: Facts) -> Iterator[Check]:
    """Artwork reaches over the edge of its piece, or keeps well within it."""
    job = facts.job
    short = found(facts, Matter.SHORT_OF_BLEED)
    if short is not None:
        yield Check(
            "short-of-bleed",
            Weight.CAUTION,
            say(
                "The artwork ends at the piece's edge on {worst}{on} and not {bleed} beyond "
                "it: a bare edge shows where a piece lies off.",
                worst=measure(round(short.worst)),
                on=short.on,
                bleed=measure(job.bleed),
            ),
            Station.BED,
            Fix(say("Enlarge it to the bleed"), _to_the_bleed),
            figure=short.worst,
            unit="mm",
            places=short.places,
            count=short.prints,
        )
    close = found(facts, Matter.SHORT_OF_EDGE)
    if close is not None:
        yield Check(
            "short-of-edge",
            Weight.CAUTION,
            say(
                "The artwork stops close to the piece's edge on {worst}{on}, nearer than the "
                "print may lie off: the rim will be uneven. Take it over the edge, or further "
                "in.",
                worst=measure(round(close.worst)),
                on=close.on,
            ),
            Station.BED,
            Fix(say("Enlarge it to the bleed"), _to_the_bleed),
            figure=close.worst,
            unit="mm",
            places=close.places,
            count=close.prints,
        )
    # Parts are cut out on purpose.
    cut = found(facts, Matter.CUT_OFF) if facts.job.parts is None else None
    if cut is not None and (cut.share > CUT_SHARE or cut.worst > CUT_FAR):
        yield Check(
            "cut-off",
            Weight.CAUTION,
            say(
                "The piece cuts off {area} of the artwork{on}, up to {worst} of it.",
                area=area_words(cut.area),
                on=cut.on,
                worst=measure(round(cut.worst, 1)),
            ),
            Station.BED,
            Fix(
                say("Fit it in"),
                partial(
                    with_part,
                    part="placing",
                    fit=Fit.FIT,
                    scale=100.0,
                    offset_x=0.0,
                    offset_y=0.0,
                ),
            ),
            figure=cut.area,
            unit="mm²",
            places=cut.places,
            count=cut.prints,
        )


def _to_the_bleed(job: Faced) -> Faced:
    """The artwork enlarged, so that what ends at the piece's edge ends with the bleed."""
    lies, shape = artwork_box(job), job.piece.shape
    if lies is None:
        return job
    more = max(
        (shape.width + 2 * job.bleed) / lies.width, (shape.height + 2 * job.bleed) / lies.height
    )
    return job.replace(placing=job.placing.replace(scale=job.placing.scale * max(1.0, more)))


@rule("like-surface")
def colour_differs_from_surface(facts: Facts) -> Iterator[Check]:
    """Colour can be told from what it is printed on."""
    alike = found(facts, Matter.LIKE_SURFACE)
    if alike is None or alike.share < ALIKE_NOTE:
        return
    yield Check(
        "like-surface",
        Weight.CAUTION if alike.share >= ALIKE_CAUTION else Weight.NOTE,
        say(
            "On {area} of the artwork{on} the colour hardly differs from {surface} (ΔE "
            "{worst}): it will not be seen.",
            area=area_words(alike.area),
            on=alike.on,
            surface=surface_words(facts.job),
            worst=f"{alike.worst:.0f}",
        ),
        Station.LAYERS,
        figure=alike.area,
        unit="mm²",
        places=alike.places,
        count=alike.prints,
    )


@rule("artwork-resized", each_print=True)
def artwork_keeps_its_size(facts: Facts) -> Iterator[Check]:
    """Artwork is printed at the size that its file states."""
    art, lies = facts.job.artwork, artwork_box(facts.job)
    if art is None or lies is None:
        return
    by = lies.width / art.cropped[0]
    if abs(by - 1.0) > SAME_SIZE:
        yield Check(
            "artwork-resized",
            Weight.NOTE,
            say(
                "{file_name} prints at {by} % of the size that its file states.",
                file_name=art.file_name,
                by=f"{by * 100:.0f}",
            ),
            Station.BED,
            Fix(
                say("At its own size"),
                partial(with_part, part="placing", fit=Fit.ACTUAL, scale=100.0),
            ),
        )
