"""Checks of white: what of the artwork it is missing under, hides, or looks out from."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.found import Found, area_words, found, layers_with
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.register import register_of
from farbe.model.layer import WHITE_UNDER, Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape, FilePlate
from farbe.model.treatment import FINE_STROKE, Choke, Feather, Harden, Limit, Shift, Spread
from farbe.plan.order import default_stack
from farbe.plan.readers import between_reader_and_colour, in_facing_order, own_layers
from farbe.plan.stations import Station
from farbe.said import inside, say, spoken
from farbe.survey.subject import UNSEEN
from farbe.survey.survey import Matter

#: CIEDE2000 between surface and white ink above which white that has no ink is lost.
LOST = 10.0
#: Area in mm² of white, and of colour, under which nobody misses it.
WHITE_AREA, COLOUR_AREA = 0.05, 0.5
#: Area in mm², and share of the artwork, of a rim under which it is no more than a spared stroke.
RIM_AREA, RIM_SHARE = 0.3, 0.001
#: Percent under which a limit leaves too little of white.
WEAK = 30
#: Share of the colour that is hidden above which the print is spoilt.
MOSTLY = 0.3


def has(job: Faced, kind: LayerKind) -> bool:
    """Whether a layer of a kind prints for the reader.

    Parameters
    ----------
    job : as one of its faces has it
    kind : of layers
    """
    return any(layer.kind is kind for layer in own_layers(job))


def surface_words(job: Faced) -> str:
    """What the piece's surface is called, for the middle of a sentence.

    Parameters
    ----------
    job : as one of its faces has it
    """
    surface = job.piece.surface
    return spoken(surface.name) or f"{surface.material.words} {surface.colour}"


def switched_off(layer: Layer) -> Layer:
    """A layer that does not print.

    Parameters
    ----------
    layer : any
    """
    return layer.replace(on=False)


def each_layer(job: Faced, change: Callable[[Layer], Layer], *, name: str | None = None) -> Faced:
    """The job with its own white layers changed, or the one layer of a name.

    Parameters
    ----------
    job : the job as one of its faces has it
    change : a layer to what it becomes
    name : of the one layer that is changed
    """

    def wanted(layer: Layer) -> bool:
        white = layer.kind is LayerKind.WHITE and job.is_own(layer)
        return layer.name == name if name is not None else white

    return job.replace(stack=tuple(change(la) if wanted(la) else la for la in job.stack))


def with_white(job: Faced) -> Faced:
    """The job with white where its reader calls for it.

    Parameters
    ----------
    job : as one of its faces has it
    """
    asleep = [la for la in job.stack if la.kind is LayerKind.WHITE and job.is_own(la)]
    if asleep:
        return each_layer(job, lambda la: la.replace(on=True), name=asleep[0].name)
    colour = LayerKind.COLOUR
    at = next((i for i, la in enumerate(job.stack) if la.kind is colour and job.is_own(la)), 0)
    at += 0 if job.reader is Reader.FACE else 1
    return job.replace(stack=(*job.stack[:at], WHITE_UNDER, *job.stack[at:]))


def _spared(layer: Layer) -> Layer:
    return layer.replace(
        treatments=tuple(
            t.replace(least=max(t.least, FINE_STROKE)) if isinstance(t, Choke) else t
            for t in layer.treatments
        )
    )


def _unlimited(layer: Layer) -> Layer:
    kept = (t for t in layer.treatments if not (isinstance(t, Limit) and t.percent < WEAK))
    return layer.replace(treatments=tuple(kept))


def _of_shape(layer: Layer) -> Layer:
    return layer.replace(source=ArtworkShape(), more=())


def white_fix(job: Faced) -> Fix | None:
    """What gives white ink to what has none, by why it has none; None if that is to be decided.

    Parameters
    ----------
    job : as one of its faces has it
    """
    layers = [la for la in own_layers(job) if la.kind is LayerKind.WHITE]
    if not layers:
        return Fix(say("Add white"), with_white)
    if any(isinstance(t, Choke) and t.least < FINE_STROKE for la in layers for t in la.active):
        return Fix(
            say("Keep strokes of {fine_stroke}", fine_stroke=measure(FINE_STROKE)),
            partial(each_layer, change=_spared),
        )
    if any(isinstance(t, Limit) and t.percent < WEAK for la in layers for t in la.active):
        return Fix(say("Take the limit off"), partial(each_layer, change=_unlimited))
    shifted = [la for la in layers if any(isinstance(t, Shift) for t in la.active)]
    if shifted:
        return Fix(
            say("Take the shift off"), partial(each_layer, change=partial(_without, kind=Shift))
        )
    if not any(isinstance(la.source, ArtworkShape) for la in layers):
        return Fix(say("White under all artwork"), partial(
            each_layer, change=_of_shape, name=layers[0].name))  # fmt: skip
    return None


def _without(layer: Layer, *, kind: type) -> Layer:
    return layer.replace(treatments=tuple(t for t in layer.treatments if not isinstance(t, kind)))


@rule("white-not-printed")
def white_of_artwork_has_ink(facts: Facts) -> Iterator[Check]:
    """White of the artwork gets white ink where the surface is not as white."""
    job = facts.job
    if not (has(job, LayerKind.COLOUR) or has(job, LayerKind.WHITE)):
        return
    off = facts.white_difference
    lost = found(facts, Matter.WHITE_BARE, Matter.WHITE_CHOKED, of=lambda survey: survey.white)
    if lost is None or lost.area < WHITE_AREA or off <= UNSEEN:
        return
    taken = found(facts, Matter.WHITE_CHOKED)
    why = say("paper white prints as nothing")
    if taken is not None and taken.area > 0.5 * lost.area:
        why = say("the choke takes strokes up to {worst}", worst=measure(round(taken.worst, 2)))
    yield Check(
        "white-not-printed",
        Weight.STOP if off > LOST else Weight.CAUTION,
        say(
            "The artwork is white on {area}{on} where no white ink goes: {why}, and {surface} "
            "differs from white by ΔE {off}.",
            area=area_words(lost.area),
            on=lost.on,
            why=why,
            surface=surface_words(job),
            off=f"{off:.0f}",
        ),
        Station.LAYERS,
        white_fix(job),
        figure=lost.area,
        unit="mm²",
        places=lost.places,
        count=lost.prints,
    )


@rule("colour-vanishes", "colour-bare")
def white_behind_colour(facts: Facts) -> Iterator[Check]:
    """Colour has white behind it where the surface needs it."""
    job = facts.job
    if not has(job, LayerKind.COLOUR) or facts.white_difference <= LOST:
        return
    if not has(job, LayerKind.WHITE):
        yield Check(
            "colour-vanishes",
            Weight.CAUTION,
            say(
                "Colour without white behind it all but vanishes on {surface}.",
                surface=surface_words(job),
            ),
            Station.LAYERS,
            Fix(say("Add white"), with_white),
        )
        return
    lost = found(facts, Matter.COLOUR_BARE, Matter.COLOUR_CHOKED, of=lambda s: s.colour)
    if lost is None or lost.area < COLOUR_AREA:
        return
    yield Check(
        "colour-bare",
        Weight.CAUTION,
        say(
            "Colour on {area}{on} has no white behind it and all but vanishes on {surface}; "
            "bare parts are up to {worst} wide.",
            area=area_words(lost.area),
            on=lost.on,
            surface=surface_words(job),
            worst=measure(round(lost.worst, 2)),
        ),
        Station.LAYERS,
        white_fix(job),
        figure=lost.area,
        unit="mm²",
        places=lost.places,
        count=lost.prints,
    )


def in_order(job: Faced) -> Faced:
    """The job with white and colour in the order that the reader calls for, varnish last.

    Parameters
    ----------
    job : as one of its faces has it
    """
    if job.two_readers:
        return in_facing_order(job)
    wanted = [layer.kind for layer in default_stack(job.reader)]
    varnish = [layer for layer in job.stack if layer.kind is LayerKind.VARNISH]
    rest = [layer for layer in job.stack if layer.kind is not LayerKind.VARNISH]
    ordered = sorted(
        rest, key=lambda layer: wanted.index(layer.kind) if layer.kind in wanted else len(wanted)
    )
    return job.replace(stack=(*ordered, *varnish))


@rule("white-hides-colour", "colour-hidden")
def order_suits_reader(facts: Facts) -> Iterator[Check]:
    """Nothing that hides lies between the reader and the colour."""
    job = facts.job
    hiding = between_reader_and_colour(job)
    if hiding is not None:
        where = found(facts, Matter.HIDDEN, layer=hiding.name, of=lambda s: s.colour)
        yield Check(
            "white-hides-colour",
            Weight.STOP,
            say(
                "{hiding} lies between the reader and the colour and hides it.", hiding=hiding.words
            ),
            Station.LAYERS,
            Fix(say("Put them in order"), in_order),
            figure=where.area if where else None,
            unit="mm²",
            places=where.places if where else (),
        )
    named = {la.name for la in job.stack if la.kind is LayerKind.NAMED}
    for name in layers_with(facts, Matter.HIDDEN):
        where = found(facts, Matter.HIDDEN, layer=name, of=lambda s: s.colour)
        if where is None or name not in named:
            continue
        mostly = where.share > MOSTLY
        yield Check(
            "colour-hidden",
            Weight.STOP if mostly else Weight.NOTE,
            say(
                "{name} lies before the colour and hides {area} of it{on}",
                name=name,
                area=area_words(where.area),
                on=where.on,
            )
            + (say("; move it behind, or switch it off.") if mostly else "."),
            Station.LAYERS,
            Fix(
                say("Switch {name} off", name=name),
                partial(each_layer, change=switched_off, name=name),
            )
            if mostly
            else None,
            figure=where.area,
            unit="mm²",
            places=where.places,
            count=where.prints,
            about=name,
        )


def _more_choke(layer: Layer, by: float) -> Layer:
    """A layer drawn back by so many mm more."""
    chokes = [t for t in layer.treatments if isinstance(t, Choke)]
    last = chokes[-1] if chokes else Choke(by=0.0, least=FINE_STROKE)
    more = last.replace(by=round(last.by + by + 0.004, 2), on=True)
    source = layer.source
    if isinstance(source, FilePlate) and not source.treated:
        # So far the file's plate had the edges it was drawn with.
        source, more = source.replace(treated=True), last.replace(by=round(by + 0.004, 2), on=True)
    kept = (t for t in layer.treatments if t is not last)
    return layer.replace(source=source, treatments=(more, *kept))


def _behind_its_edge(layer: Layer, *, kind: type, choke: float) -> Layer:
    """A layer without a kind of treatment, drawn back by so much at the least."""
    plain = _without(layer, kind=kind)
    return plain if plain.choke >= choke else _more_choke(plain, choke - plain.choke)


def rim_fix(layer: Layer, out: Found, register: float) -> Fix:
    """What takes back ink that looks out, by why it does.

    Parameters
    ----------
    layer : that looks out
    out : how far
    register : mm of stated misregister
    """
    active = layer.active
    for kind, words in ((Shift, say("Take the shift off")), (Spread, say("Take the spread off"))):
        if any(isinstance(t, kind) for t in active):
            gone = partial(_behind_its_edge, kind=kind, choke=register / 2)
            return Fix(words, partial(each_layer, change=gone, name=layer.name))
    more = partial(_more_choke, by=out.worst)
    words = say("Choke {worst} more", worst=measure(round(out.worst + 0.004, 2)))
    return Fix(words, partial(each_layer, change=more, name=layer.name))


def reaches_edge(layer: Layer) -> bool:
    """Whether white or blackout ends exactly where the artwork does.

    Parameters
    ----------
    layer : of any kind
    """
    drawn_back = layer.choke > 0 or any(isinstance(t, Feather) for t in layer.active)
    moved = any(isinstance(t, Shift | Spread) for t in layer.active)
    return (
        layer.kind in (LayerKind.WHITE, LayerKind.BLACKOUT)
        and isinstance(layer.source, ArtworkShape)
        and not drawn_back and not moved
    )  # fmt: skip


@rule("ink-looks-out")
def nothing_looks_out(facts: Facts) -> Iterator[Check]:
    """No ink looks out from under the colour at the stated misregister."""
    job = facts.job
    if not has(job, LayerKind.COLOUR):
        return
    register = register_of(job, apart=job.running.separate)
    layers = {la.name: la for la in own_layers(job)}
    for name in layers_with(facts, Matter.LOOKS_OUT):
        out = found(facts, Matter.LOOKS_OUT, layer=name)
        # Of what reaches the edge itself another check tells.
        if out is None or name not in layers or reaches_edge(layers[name]):
            continue
        if out.area < RIM_AREA or out.share < RIM_SHARE:
            continue
        # Choking more takes nothing from strokes that are spared: this is to be decided.
        spares = _spares(layers[name], register)
        yield Check(
            "ink-looks-out",
            Weight.NOTE if spares else Weight.CAUTION,
            say(
                "{name} looks out from under the colour by {worst}, on {area}{on}, at the "
                "stated misregister of {register}",
                name=name,
                worst=measure(round(out.worst, 2)),
                area=area_words(out.area),
                on=out.on,
                register=measure(round(register, 2)),
            )
            + (say(", beside fine strokes that its choke spares.") if spares else "."),
            Station.LAYERS,
            None if spares else rim_fix(layers[name], out, register),
            figure=out.area,
            unit="mm²",
            places=out.places,
            count=out.prints,
            about=name,
        )


def _spares(layer: Layer, register: float) -> bool:
    """Whether a layer is drawn back far enough, but for strokes that its choke spares."""
    moved = any(isinstance(t, Shift | Spread) for t in layer.active)
    least = any(isinstance(t, Choke) and t.least > 0 for t in layer.active)
    follows = isinstance(layer.source, ArtworkShape) and not layer.more
    return least and follows and not moved and layer.choke >= register / 2


@rule("soft-edges")
def edges_hold_powder(facts: Facts) -> Iterator[Check]:
    """White under the soft edges of a transfer is solid or dots."""
    faint = found(facts, Matter.SOFT)
    if faint is None or faint.area < 1.0:
        return
    yield Check(
        "soft-edges",
        Weight.CAUTION,
        say(
            "Soft edges on {area}{on} get thin white, which holds no powder: they peel or "
            "look grey. Harden them, or turn them into dots.",
            area=area_words(faint.area),
            on=faint.on,
        ),
        Station.LAYERS,
        Fix(say("Harden white"), partial(each_layer, change=_hardened)),
        figure=faint.area,
        unit="mm²",
        places=faint.places,
        count=faint.prints,
    )


def _hardened(layer: Layer) -> Layer:
    return layer.replace(treatments=(Harden(), *layer.treatments))


@rule("varnish-under")
def varnish_lies_outside(facts: Facts) -> Iterator[Check]:
    """Varnish is the outermost film, where it is touched."""
    job = facts.job
    layers = [la for la in job.stack if la.on]
    at = next((i for i, la in enumerate(layers) if la.kind is LayerKind.VARNISH), None)
    if at is None:
        return
    over = layers[:at] if job.reader is Reader.TRANSFER else layers[at + 1 :]
    covering = next((la for la in over if la.kind is not LayerKind.VARNISH), None)
    if covering is not None:
        yield Check(
            "varnish-under",
            Weight.CAUTION,
            say(
                "{layer} lies under {covering}: its gloss and its relief are covered.",
                layer=layers[at].words,
                covering=inside(covering.words),
            ),
            Station.LAYERS,
            Fix(say("Varnish outermost"), _varnish_out),
            about=layers[at].name,
        )


def _varnish_out(job: Faced) -> Faced:
    varnish = tuple(la for la in job.stack if la.kind is LayerKind.VARNISH)
    rest = tuple(la for la in job.stack if la.kind is not LayerKind.VARNISH)
    out = (*varnish, *rest) if job.reader is Reader.TRANSFER else (*rest, *varnish)
    return job.replace(stack=out)
