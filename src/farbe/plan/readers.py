"""One reader or two: what a clear piece needs to be read from both of its sides."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum

from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.face import Face, SamePrint
from farbe.model.layer import BLACKOUT, COLOUR, WHITE_UNDER, Join, Joined, Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import ArtworkShape, OppositeShape
from farbe.plan.order import mirror_reason, order_reason, then
from farbe.said import inside, say, shipped


class ReadBy(StrEnum):
    """Who reads a piece."""

    FACE = "face"
    THROUGH = "through"
    BOTH = "both"
    TRANSFER = "transfer"


def read_by(job: Faced) -> ReadBy:
    """Who reads a job's piece.

    Parameters
    ----------
    job : with one or two readers
    """
    return ReadBy.BOTH if job.two_readers else ReadBy(job.reader.value)


#: Blackout where both readers' artworks are: beyond one of them it would be seen.
BETWEEN = BLACKOUT.replace(
    source=ArtworkShape(), more=(Joined(join=Join.INTERSECT, source=OppositeShape()),),
    treatments=WHITE_UNDER.treatments,
)  # fmt: skip


def facing_stack() -> tuple[Layer, ...]:
    """The stack of a clear piece with two readers, whose first looks through it."""
    through = _named((COLOUR, WHITE_UNDER), Reader.THROUGH)
    face = _named((WHITE_UNDER, COLOUR), Reader.FACE)
    return (*through, BETWEEN.replace(reader=Reader.THROUGH), *face)


#: What layers are called that one of two readers sees.
_CALLED = {
    (Reader.THROUGH, LayerKind.COLOUR): shipped("Colour through"),
    (Reader.THROUGH, LayerKind.WHITE): shipped("White through"),
    (Reader.FACE, LayerKind.COLOUR): shipped("Colour at the face"),
    (Reader.FACE, LayerKind.WHITE): shipped("White at the face"),
}


def _named(layers: tuple[Layer, ...], reader: Reader) -> tuple[Layer, ...]:
    return tuple(la.replace(name=_CALLED[reader, la.kind], reader=reader) for la in layers)


def with_two_readers(job: Faced) -> Faced:
    """The job read from both sides; the other reader begins with the same artworks.

    Its own layers stay, varnish on top of all; blackout, white and colour for the other reader
    go to the other side of them.

    Parameters
    ----------
    job : as one of its faces has it

    Raises
    ------
    BadInput
        If it is printed on both sides.
    """
    if job.two_readers:
        return job
    if job.two_sided:
        raise BadInput(say("A piece that is printed on both sides is read from its faces."))
    reader = Reader.FACE if job.reader is Reader.FACE else Reader.THROUGH
    beyond = Reader.THROUGH if reader is Reader.FACE else Reader.FACE
    taken = {layer.name.casefold() for layer in job.stack}
    fresh = (WHITE_UNDER, COLOUR) if reader is Reader.THROUGH else (COLOUR, WHITE_UNDER)
    other = tuple(
        la.replace(name=f"{la.name} 2") if la.name.casefold() in taken else la
        for la in _named(fresh, beyond)
    )
    kept = tuple(la.replace(reader=reader) for la in job.stack)
    own = tuple(la for la in kept if la.kind is not LayerKind.VARNISH)
    varnish = tuple(la for la in kept if la.kind is LayerKind.VARNISH)
    between = BETWEEN.replace(reader=reader)
    middle = () if any(la.kind is LayerKind.BLACKOUT for la in own) else (between,)
    made = (*other, *middle, *own) if reader is Reader.FACE else (*own, *middle, *other)
    second = Face(
        reader=beyond, artworks=job.artworks, placing=job.placing, texts=job.texts,
        table=job.table, serial=job.serial, artwork_column=job.artwork_column,
        parts=job.parts,
    )  # fmt: skip
    first = job.face.replace(reader=reader, stack=(*made, *varnish))
    return Faced(job.job.replace(faces=(first, second), comes_up=SamePrint()))


def with_one_reader(job: Faced) -> Faced:
    """The job without its second reader, and without the layers for it.

    Parameters
    ----------
    job : with one or two readers
    """
    if not job.two_readers:
        return job
    kept = tuple(
        layer.replace(reader=None) for layer in job.stack
        if job.is_own(layer) and not any(isinstance(s, OppositeShape) for s in layer.sources[1:])
    )  # fmt: skip
    face = job.face.replace(stack=kept)
    return Faced(job.job.replace(faces=(face,), comes_up=None, piece=job.piece,
                                 see_through=job.see_through))  # fmt: skip


def own_layers(job: Faced) -> tuple[Layer, ...]:
    """The layers that print for the reader by whom the job is told.

    Parameters
    ----------
    job : with one or two readers
    """
    return tuple(layer for layer in job.stack if layer.on and job.is_own(layer))


def front_colour(job: Faced, layers: Sequence[Layer]) -> int | None:
    """Which of some layers is the colour that the reader sees first; None without colour.

    Of two, the one behind is seen when the piece is lit.

    Parameters
    ----------
    job : told by its reader
    layers : of its stack, from the substrate up
    """
    at = [place for place, layer in enumerate(layers)
          if layer.kind is LayerKind.COLOUR and job.is_own(layer)]  # fmt: skip
    if not at:
        return None
    return at[-1] if job.reader is Reader.FACE else at[0]


def between_reader_and_colour(job: Faced) -> Layer | None:
    """A layer that hides the colour from the reader by whom the job is told; None if none does.

    Parameters
    ----------
    job : with one or two readers
    """
    layers = [layer for layer in job.stack if layer.on]
    at = front_colour(job, layers)
    if at is None:
        return None
    before = layers[at + 1 :] if job.reader is Reader.FACE else layers[:at]
    hiding = (LayerKind.WHITE, LayerKind.BLACKOUT)
    return next((layer for layer in before if layer.kind in hiding), None)


def in_facing_order(job: Faced) -> Faced:
    """A job with two readers, its layers in the order that both call for.

    Parameters
    ----------
    job : with one or two readers
    """

    first = job.first.reader

    def place(layer: Layer) -> int:
        through = (layer.reader or first) is Reader.THROUGH
        order = {LayerKind.COLOUR: 0, LayerKind.NAMED: 1, LayerKind.WHITE: 2}
        if layer.kind is LayerKind.VARNISH:
            return 20
        if layer.kind is LayerKind.BLACKOUT:
            return 5
        return order[layer.kind] if through else 10 - order[layer.kind]

    return job.replace(stack=tuple(sorted(job.stack, key=place)))


def mirror_words(job: Faced) -> str:
    """Why the print is mirrored or not, in one sentence.

    Parameters
    ----------
    job : with one or two readers
    """
    if not job.two_readers:
        return mirror_reason(job.reader, job.receiver)
    return say(
        "Mirrored only in what is read through the piece; the face is read as it is printed."
    )


def order_words(job: Faced) -> str:
    """Why the layers go down in this order, in one sentence.

    Parameters
    ----------
    job : with one or two readers
    """
    if not job.two_readers:
        return order_reason(job.reader, job.stack)
    names = then(layer for layer in job.stack if layer.on)
    hiding = between_reader_and_colour(job)
    if hiding is not None:
        return say(
            "Prints {names}: {hiding} hides the colour from the reader.",
            names=names,
            hiding=inside(hiding.words),
        )
    return say("Prints {names}, so that each reader sees colour in front of white.", names=names)
