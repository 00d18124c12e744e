"""The checks, one function each, in the order in which a job is prepared."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial

from shapely import affinity

from farbe.art.artwork import MM_PER_INCH
from farbe.checks import artworkrules as artworkrules
from farbe.checks import bodyrules as bodyrules
from farbe.checks import brandrules as brandrules
from farbe.checks import coderules as coderules
from farbe.checks import conditionrules as conditionrules
from farbe.checks import filmrules as filmrules
from farbe.checks import inkrules as inkrules
from farbe.checks import neighbourrules as neighbourrules
from farbe.checks import placerules as placerules
from farbe.checks import pocketrules as pocketrules
from farbe.checks import printerrules as printerrules
from farbe.checks import readerrules as readerrules
from farbe.checks import rollrules as rollrules
from farbe.checks import striprules as striprules
from farbe.checks.accept import with_accepted
from farbe.checks.check import Check, Facts, Fix, findings, rule, with_part, without_pockets
from farbe.checks.placerules import least_gap
from farbe.checks.pocketrules import listed
from farbe.checks.weight import Weight
from farbe.checks.whiterules import each_layer, has, reaches_edge, switched_off
from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.guide import guide_reach
from farbe.layout.laid import LaidPiece, laid
from farbe.layout.loads import count_loads, why_nothing_prints, with_load
from farbe.layout.placing import artwork_box
from farbe.layout.pockets import piece_on_bed, pitch
from farbe.layout.tiling import no_parts, whole_again
from farbe.model.jig import GuideStyle
from farbe.model.layer import Layer
from farbe.model.medium import Bed
from farbe.model.printer import LayerKind
from farbe.model.source import Region, WholePiece
from farbe.model.treatment import FINE_STROKE, Choke
from farbe.plan.order import needs_white, printing_layers
from farbe.plan.readers import mirror_words, own_layers
from farbe.plan.stations import Station
from farbe.render.piece import dot_side, lost_dots
from farbe.said import say, say_count, spoken

#: Pixels per inch of artwork at its printed size: under these, lettering shows steps.
FEW_PIXELS = 150
TOO_FEW_PIXELS = 72
#: A choke, in mm, that forgives the misregister of an ordinary machine.
USUAL_CHOKE = 0.1
_ORDER = {Weight.STOP: 0, Weight.CAUTION: 1, Weight.NOTE: 2}


def run_checks(facts: Facts) -> tuple[Check, ...]:
    """All findings, stops first.

    Parameters
    ----------
    facts : the job as the face has it that is looked at, and where its files are

    Returns
    -------
    Of both faces; fixes are told for the face that is looked at.

    Raises
    ------
    Cancelled
        If the work behind it was given up.
    """
    found = _of_face(findings(facts), facts.job.number)
    other = facts.job.other
    if other is not None:
        known = {(check.code, check.text) for check in found}
        behind = _of_face(findings(replace(facts, job=other)), other.number)
        whose = say("Other reader") if facts.job.two_readers else say("Other side")
        new = [check for check in behind if (check.code, check.text) not in known]
        found += [_behind(check, whose) for check in new]
    found = with_accepted(facts.job, found)
    return tuple(sorted(found, key=lambda check: (check.accepted, _ORDER[check.weight])))


def _of_face(found: list[Check], number: int) -> list[Check]:
    return [replace(check, face=number) for check in found]


def _mended_behind(job: Faced, mend: Callable[[Faced], Faced]) -> Faced:
    return job if job.other is None else Faced(mend(job.other).job, job.number)


def _behind(check: Check, whose: str) -> Check:
    """A finding of the other side or reader, mended there."""
    fix = check.fix
    there = None if fix is None else Fix(fix.words, partial(_mended_behind, mend=fix.mend))
    return replace(check, text=f"{whose}: {check.text}", fix=there)


def _with_stack(job: Faced, stack: tuple[Layer, ...]) -> Faced:
    return job.replace(stack=stack)


def _without_white(job: Faced) -> Faced:
    """The job with its white switched off."""
    white = LayerKind.WHITE
    return _with_stack(
        job,
        tuple(
            la.replace(on=False) if la.kind is white and job.is_own(la) else la for la in job.stack
        ),
    )


def _choked(job: Faced, *, name: str) -> Faced:
    """The job with a usual choke on the layer of a name."""
    return _with_stack(
        job,
        tuple(
            la.replace(
                treatments=(
                    Choke(by=USUAL_CHOKE, least=FINE_STROKE),
                    *(t for t in la.treatments if not isinstance(t, Choke)),
                )
            )
            if la.name == name
            else la
            for la in job.stack
        ),
    )


@rule("piece-too-high")
def piece_too_high(facts: Facts) -> Iterator[Check]:
    """The piece passes under the head."""
    piece, printer = facts.job.piece, facts.job.printer
    if piece.height > printer.max_piece_height:
        yield Check(
            "piece-too-high",
            Weight.STOP,
            say(
                "The piece is {height} high; {printer} takes {max_piece_height} at most. "
                "Choose another printer, or measure the piece again.",
                height=measure(piece.height),
                printer=spoken(printer.name),
                max_piece_height=measure(printer.max_piece_height),
            ),
            Station.PIECE,
        )


@rule("no-artwork")
def artwork_missing(facts: Facts) -> Iterator[Check]:
    """There is something to print."""
    needy = [
        la
        for la in printing_layers(facts.job.stack)
        if not isinstance(la.source, WholePiece | Region)
    ]
    if not facts.job.artworks and not facts.job.texts and needy:
        yield Check(
            "no-artwork",
            Weight.STOP,
            say("There is no artwork yet; drop a picture on the window."),
            Station.BED,
        )


@rule("no-layers", "no-pockets", "no-prints")
def nothing_prints(facts: Facts) -> Iterator[Check]:
    """A layer and a pocket are on, and a pocket gets a print."""
    if not printing_layers(facts.job.stack):
        yield Check(
            "no-layers", Weight.STOP,
            say("No layer is switched on, so nothing prints; switch one on or add one."),
            Station.LAYERS, Fix(say("Switch all on"), _all_layers_on) if facts.job.stack else None,
        )  # fmt: skip
    why = why_nothing_prints(facts.job)
    if why and not laid(facts.job):
        on = Fix(say("Switch all on"), partial(with_part, part="jig", off=frozenset()))
        yield Check("no-pockets", Weight.STOP, why, Station.BED, on if facts.job.jig.off else None)
    elif why:
        yield Check("no-prints", Weight.STOP, why, Station.BED, _prints_again(facts.job))


def _prints_again(job: Faced) -> Fix | None:
    """What lets pieces get prints, where one thing does."""
    if no_parts(job):
        return Fix(say("Print it in one piece"), whole_again)
    if job.job.load >= count_loads(job):
        return Fix(say("Print the first load"), partial(with_load, load=0))
    return None


def _all_layers_on(job: Faced) -> Faced:
    return job.replace(stack=tuple(la.replace(on=True) for la in job.stack))


@rule("ink-missing")
def inks_in_printer(facts: Facts) -> Iterator[Check]:
    """The printer has the ink of each layer."""
    for layer in printing_layers(facts.job.stack):
        if not facts.job.printer.inks_of(layer.kind, layer.ink):
            yield Check(
                "ink-missing",
                Weight.STOP,
                say(
                    "{layer} cannot print: {printer} has no {kind} ink; switch it off, or choose "
                    "another printer.",
                    layer=layer.words,
                    printer=spoken(facts.job.printer.name),
                    kind=layer.kind.words,
                ),
                Station.LAYERS,
                Fix(
                    say("Switch {layer} off", layer=layer.words),
                    partial(each_layer, change=switched_off, name=layer.name),
                ),
                about=layer.name,
            )


def _reach(job: Faced, pocket: LaidPiece) -> tuple[float, float, float, float]:
    """Left, bottom, right, top in mm of what is printed at a pocket, guide and bleed included."""
    grow = max(job.bleed, guide_reach(job.guide))
    left, bottom, right, top = pocket.outline.bounds
    return (
        pocket.x + left - grow, pocket.y + bottom - grow,
        pocket.x + right + grow, pocket.y + top + grow,
    )  # fmt: skip


@rule("outside-bed", "outside-board", on=Bed)
def pockets_inside(facts: Facts) -> Iterator[Check]:
    """Pockets lie on the bed and on their board."""
    job = facts.job
    bed = (0.0, 0.0, *carrier_of(job).size(job))
    base = carrier_of(job).base(job)
    plate = (base.x, base.y, base.x + base.width, base.y + base.height)

    def outside(pocket: LaidPiece, place: tuple[float, float, float, float]) -> bool:
        left, bottom, right, top = _reach(job, pocket)
        slack = 1e-6
        return (
            left < place[0] - slack
            or bottom < place[1] - slack
            or right > place[2] + slack
            or top > place[3] + slack
        )

    used = laid(job)
    off_bed = [p for p in used if outside(p, bed)]
    off_board = [p for p in used if p not in off_bed and outside(p, plate)]
    if off_bed:
        gone = frozenset(p.number for p in off_bed)
        yield Check(
            "outside-bed",
            Weight.STOP,
            say_count(
                len(off_bed),
                "{pockets} reaches beyond the bed; move the grid or switch it off.",
                "{pockets} reach beyond the bed; move the grid or switch them off.",
                pockets=listed(tuple(p.number for p in off_bed)),
            ),
            Station.BED,
            Fix(say("Switch off"), partial(without_pockets, pockets=frozenset(gone))),
        )
    if off_board:
        yield Check(
            "outside-board",
            Weight.CAUTION,
            say_count(
                len(off_board),
                "{pockets} reaches beyond the board; move the grid, or take a larger one.",
                "{pockets} reach beyond the board; move the grid, or take a larger one.",
                pockets=listed(tuple(p.number for p in off_board)),
            ),
            Station.BED,
        )


@rule("bleed-overlaps")
def bleeds_overlap(facts: Facts) -> Iterator[Check]:
    """Neighbours do not print over each other."""
    job = facts.job
    gap = _least_gap(job)
    if gap is not None and 2 * job.bleed > gap + 1e-6:
        yield Check(
            "bleed-overlaps",
            Weight.CAUTION,
            say(
                "A bleed of {bleed} on both sides is more than the gap of {gap}: neighbours "
                "print over each other.",
                bleed=measure(job.bleed),
                gap=measure(gap),
            ),
            Station.BED,
            Fix(say("Bleed {gap}", gap=measure(gap / 2)), partial(Faced.replace, bleed=gap / 2)),
        )


def _least_gap(job: Faced) -> float | None:
    """The least distance between two neighbours' outlines in mm; None for a single piece.

    In a grid all neighbours lie like a few: beside, behind, and shifted to either side. Where
    pockets are told one by one, each is measured to its nearest.
    """
    if job.roll is not None:
        # Artworks are laid so far apart and twice the bleed.
        return job.roll.gap + 2 * job.bleed
    if job.jig.places:
        return least_gap(laid(job), 2 * job.bleed) if job.bleed else None
    jig, piece = job.jig, piece_on_bed(job)
    step = pitch(jig, job.piece.shape)
    ways = []
    if jig.columns > 1:
        ways.append((step.across, 0.0))
    if jig.rows > 1:
        ways += [(step.shift, step.along), (-step.shift, step.along)]
    if jig.rows > 2:
        ways.append((0.0, 2 * step.along))
    gaps = (float(piece.distance(affinity.translate(piece, x, y))) for x, y in ways)
    return min(gaps, default=None)


@rule("kerb-without-varnish")
def kerb_needs_varnish(facts: Facts) -> Iterator[Check]:
    """A kerb has varnish to be built of."""
    job = facts.job
    if job.guide.style is GuideStyle.KERB and not job.printer.inks_of(LayerKind.VARNISH):
        yield Check(
            "kerb-without-varnish",
            Weight.STOP,
            say(
                "A raised kerb is built of varnish, and {printer} has none.",
                printer=spoken(job.printer.name),
            ),
            Station.BED,
            Fix(
                say("Print outlines"),
                partial(with_part, part="guide", style=GuideStyle.OUTLINE),
            ),
        )


@rule("few-pixels", each_print=True)
def pixels_enough(facts: Facts) -> Iterator[Check]:
    """The artwork has pixels enough for its size."""
    art, placed, lies = facts.stated, facts.job.artwork, artwork_box(facts.job)
    if art is None or placed is None or lies is None:
        return
    found = min(art.width / lies.width, art.height / lies.height) * MM_PER_INCH
    if found < FEW_PIXELS:
        coarse = (
            say("it will look coarse")
            if found < TOO_FEW_PIXELS
            else say("fine lettering will look soft")
        )
        yield Check(
            "few-pixels",
            Weight.CAUTION,
            say(
                "{file_name} has {density} pixels per inch at this size; {coarse}. Ask for a "
                "larger file, or print it smaller.",
                file_name=placed.file_name,
                density=f"{found:.0f}",
                coarse=coarse,
            ),
            Station.BED,
        )


@rule("profile-unusable", each_print=True)
def profile_fits(facts: Facts) -> Iterator[Check]:
    """The embedded profile fits the pixels."""
    placed = facts.job.artwork
    if facts.stated is not None and placed is not None and facts.stated.unfit_profile:
        yield Check(
            "profile-unusable",
            Weight.CAUTION,
            say(
                "The colour profile in {file_name} does not fit its pixels and is not used; "
                "colours may differ. Choose the right one for it.",
                file_name=placed.file_name,
            ),
            Station.LAYERS,
        )


@rule("choke-zero")
def choke_not_zero(facts: Facts) -> Iterator[Check]:
    """White is choked, so that no rim shows."""
    job = facts.job
    if not has(job, LayerKind.COLOUR):
        return
    for layer in own_layers(job):
        if reaches_edge(layer):
            yield Check(
                "choke-zero",
                Weight.CAUTION,
                say(
                    "{layer} reaches the edge of the colour: a rim of it shows at the least "
                    "misregister.",
                    layer=layer.words,
                ),
                Station.LAYERS,
                Fix(
                    say("Choke {usual_choke}", usual_choke=measure(USUAL_CHOKE)),
                    partial(_choked, name=layer.name),
                ),
            )


@rule("dots-choked")
def dots_keep_their_size(facts: Facts) -> Iterator[Check]:
    """Nothing changes dots after they were made."""
    for layer in own_layers(facts.job):
        dots = lost_dots(layer)
        later = layer.active[layer.active.index(dots) + 1 :] if dots is not None else ()
        eaten = 2 * sum(t.by for t in later if isinstance(t, Choke))
        # Of a dot that keeps less than a quarter of its area hardly anything is left.
        if dots is not None and eaten > 0.5 * dot_side(dots):
            yield Check(
                "dots-choked",
                Weight.CAUTION,
                say(
                    "{layer} is choked after it was turned into dots of {dot_side}: most of them "
                    "vanish, and its half tones.",
                    layer=layer.words,
                    dot_side=measure(round(dot_side(dots), 2)),
                ),
                Station.LAYERS,
                Fix(say("Choke first"), partial(_choke_first, layer.name)),
            )


def _choke_first(name: str, job: Faced) -> Faced:
    """The job with a layer's chokes before everything else that is done to it."""

    def ordered(layer: Layer) -> Layer:
        chokes = tuple(t for t in layer.treatments if isinstance(t, Choke))
        others = tuple(t for t in layer.treatments if not isinstance(t, Choke))
        return layer.replace(treatments=(*chokes, *others))

    return _with_stack(job, tuple(ordered(la) if la.name == name else la for la in job.stack))


@rule("white-on-white")
def white_for_nothing(facts: Facts) -> Iterator[Check]:
    """White is not laid down on white."""
    job = facts.job
    if (
        not needs_white(job.piece.surface)
        and has(job, LayerKind.WHITE)
        and has(job, LayerKind.COLOUR)
    ):
        yield Check(
            "white-on-white",
            Weight.NOTE,
            say("The piece is white already; white ink under the colour may be left out."),
            Station.LAYERS,
            Fix(say("Switch white off"), _without_white),
        )


@rule("mirroring")
def mirroring(facts: Facts) -> Iterator[Check]:
    """Whether the print is mirrored, and why."""
    yield Check(
        "mirroring",
        Weight.NOTE,
        mirror_words(facts.job),
        Station.PIECE,
    )
