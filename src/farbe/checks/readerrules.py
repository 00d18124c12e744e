"""Checks of pieces that are read from both sides."""

from __future__ import annotations

from collections.abc import Iterator

from farbe.checks.check import Check, Facts, Fix, rule
from farbe.checks.weight import Weight
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.holes import open_share
from farbe.model.piece import Material, Surface
from farbe.model.printer import LayerKind
from farbe.plan.order import printing_layers
from farbe.plan.readers import BETWEEN, in_facing_order
from farbe.plan.stations import Station
from farbe.said import say

#: More than this share open, and a picture is hardly seen any more.
MOST_OPEN = 0.6


@rule("not-clear")
def two_readers_look_through(facts: Facts) -> Iterator[Check]:
    """A piece with two readers is clear."""
    job = facts.job
    if not job.two_readers or job.piece.surface.material is Material.CLEAR:
        return
    yield Check(
        "not-clear",
        Weight.STOP,
        say("The piece has two readers, and one of them cannot look through it."),
        Station.PIECE,
        Fix(say("It is clear"), _clear),
    )


def _clear(job: Faced) -> Faced:
    surface = Surface(material=Material.CLEAR, name="clear")
    return job.replace(piece=job.piece.replace(surface=surface))


@rule("shows-through")
def sides_kept_apart(facts: Facts) -> Iterator[Check]:
    """What one reader sees does not shine through to the other."""
    job = facts.job
    kinds = [layer.kind for layer in printing_layers(job.stack)]
    if not job.two_readers or LayerKind.BLACKOUT in kinds:
        return
    yield Check(
        "shows-through",
        Weight.CAUTION,
        say(
            "Without blackout between them, each artwork shows through the other against the light."
        ),
        Station.LAYERS,
        Fix(say("Add blackout"), _with_blackout),
    )


def _with_blackout(job: Faced) -> Faced:
    asleep = any(layer.kind is LayerKind.BLACKOUT for layer in job.stack)
    if asleep:
        woken = tuple(
            la.replace(on=True) if la.kind is LayerKind.BLACKOUT else la for la in job.stack
        )
        return job.replace(stack=woken)
    return in_facing_order(job.replace(stack=(*job.stack, BETWEEN)))


@rule("holes-touch", "much-open", "open-share")
def enough_is_open(facts: Facts) -> Iterator[Check]:
    """Holes to see through stay apart, and how much they open."""
    job, holes = facts.job, facts.job.see_through
    if holes is None:
        return
    share = open_share(job)
    back = max((la.choke for la in printing_layers(job.stack)), default=0.0)
    if holes.size + 2 * back >= holes.spacing:
        yield Check(
            "holes-touch",
            Weight.STOP,
            say(
                "Holes of {size} every {spacing} leave no white between them; make them smaller.",
                size=measure(holes.size),
                spacing=measure(holes.spacing),
            ),
            Station.LAYERS,
        )
    elif share > MOST_OPEN:
        yield Check(
            "much-open",
            Weight.CAUTION,
            say(
                "{share} % of the piece is open to see through; little is left to read.",
                share=f"{share * 100:.0f}",
            ),
            Station.LAYERS,
        )
    else:
        yield Check(
            "open-share",
            Weight.NOTE,
            say("{share} % of the piece is open to see through.", share=f"{share * 100:.0f}"),
            Station.LAYERS,
        )
