"""One reader or two: what a clear piece needs to be read from both of its sides."""

from __future__ import annotations

from enum import StrEnum

from farbe.model.job import Job
from farbe.model.layer import BLACKOUT, COLOUR, WHITE_UNDER, Join, Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.side import Content
from farbe.model.source import ArtworkShape, OppositeShape
from farbe.plan.order import mirror_reason, order_reason


class ReadBy(StrEnum):
    """Who reads a piece."""

    FACE = "face"
    THROUGH = "through"
    BOTH = "both"
    TRANSFER = "transfer"


def read_by(job: Job) -> ReadBy:
    """Who reads a job's piece."""
    return ReadBy.BOTH if job.opposite is not None else ReadBy(job.reader.value)


#: Blackout where both readers' artworks are: beyond one of them it would be seen.
BETWEEN = BLACKOUT.replace(
    source=ArtworkShape(), second=OppositeShape(), join=Join.INTERSECT,
    treatments=WHITE_UNDER.treatments,
)  # fmt: skip


def facing_stack() -> tuple[Layer, ...]:
    """The stack of a clear piece with two readers, told by the one who looks through it."""
    own = _named((COLOUR, WHITE_UNDER), "through")
    other = _named((WHITE_UNDER, COLOUR), "at the face")
    return (*own, BETWEEN, *(layer.replace(opposite=True) for layer in other))


def _named(layers: tuple[Layer, ...], where: str) -> tuple[Layer, ...]:
    return tuple(layer.replace(name=f"{layer.name} {where}") for layer in layers)


def with_two_readers(job: Job) -> Job:
    """The job read from both sides; the other reader begins with the same artworks.

    Its own layers stay, varnish on top of all; blackout, white and colour for the other reader
    go to the other side of them.

    Raises
    ------
    BadInput
        If it is printed on both sides.
    """
    if job.opposite is not None:
        return job
    reader = Reader.FACE if job.reader is Reader.FACE else Reader.THROUGH
    taken = {layer.name.casefold() for layer in job.stack}
    where = "through" if reader is Reader.FACE else "at the face"
    fresh = (WHITE_UNDER, COLOUR) if reader is Reader.THROUGH else (COLOUR, WHITE_UNDER)
    other = tuple(layer.replace(opposite=True) for layer in _named(fresh, where))
    own = tuple(la for la in job.stack if la.kind is not LayerKind.VARNISH)
    varnish = tuple(la for la in job.stack if la.kind is LayerKind.VARNISH)
    middle = () if any(la.kind is LayerKind.BLACKOUT for la in own) else (BETWEEN,)
    made = (*other, *middle, *own) if reader is Reader.FACE else (*own, *middle, *other)
    stack = tuple(
        la.replace(name=f"{la.name} 2") if la.opposite and la.name.casefold() in taken else la
        for la in (*made, *varnish)
    )
    return job.replace(
        reader=reader,
        stack=stack,
        opposite=Content(artworks=job.artworks, placing=job.placing, texts=job.texts,
                         table=job.table),
    )  # fmt: skip


def with_one_reader(job: Job) -> Job:
    """The job without its second reader, and without the layers for it."""
    if job.opposite is None:
        return job
    kept = tuple(
        layer for layer in job.stack
        if not layer.opposite and not isinstance(layer.second, OppositeShape)
    )  # fmt: skip
    return job.replace(stack=kept, opposite=None)


def own_layers(job: Job) -> tuple[Layer, ...]:
    """The layers that print for the reader by whom the job is told."""
    return tuple(layer for layer in job.stack if layer.on and not layer.opposite)


def between_reader_and_colour(job: Job) -> Layer | None:
    """A layer that hides the colour from the reader by whom the job is told; None if none does."""
    layers = [layer for layer in job.stack if layer.on]
    kinds = [(layer.kind, layer.opposite) for layer in layers]
    if (LayerKind.COLOUR, False) not in kinds:
        return None
    at = kinds.index((LayerKind.COLOUR, False))
    before = layers[at + 1 :] if job.reader is Reader.FACE else layers[:at]
    hiding = (LayerKind.WHITE, LayerKind.BLACKOUT)
    return next((layer for layer in before if layer.kind in hiding), None)


def in_facing_order(job: Job) -> Job:
    """A job with two readers, its layers in the order that both call for."""
    through_is_own = job.reader is Reader.THROUGH

    def place(layer: Layer) -> int:
        through = layer.opposite is not through_is_own
        order = {LayerKind.COLOUR: 0, LayerKind.NAMED: 1, LayerKind.WHITE: 2}
        if layer.kind is LayerKind.VARNISH:
            return 20
        if layer.kind is LayerKind.BLACKOUT:
            return 5
        return order[layer.kind] if through else 10 - order[layer.kind]

    return job.replace(stack=tuple(sorted(job.stack, key=place)))


def mirror_words(job: Job) -> str:
    """Why the print is mirrored or not, in one sentence."""
    if job.opposite is None:
        return mirror_reason(job.reader, job.receiver)
    return "Mirrored only in what is read through the piece; the face is read as it is printed."


def order_words(job: Job) -> str:
    """Why the layers go down in this order, in one sentence."""
    if job.opposite is None:
        return order_reason(job.reader, job.stack)
    names = " then ".join(layer.name.lower() for layer in job.stack if layer.on)
    hiding = between_reader_and_colour(job)
    if hiding is not None:
        return f"Prints {names}: {hiding.name.lower()} hides the colour from the reader."
    return f"Prints {names}, so that each reader sees colour in front of white."
