"""Edits of the stack, each one step to undo."""

from __future__ import annotations

from collections.abc import Callable

from farbe.edits.document import Editor
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.model.base import BadInput
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import AsLayer, Source
from farbe.model.treatment import FINE_STROKE, Choke, Holes
from farbe.plan.readers import ReadBy, with_one_reader, with_two_readers
from farbe.said import say

_FRESH = {
    LayerKind.WHITE: WHITE_UNDER,
    LayerKind.COLOUR: COLOUR,
    LayerKind.VARNISH: VARNISH_OVER,
    LayerKind.BLACKOUT: BLACKOUT,
}


def layer_named(job: Faced, name: str) -> Layer | None:
    """The layer of a name; None if there is none.

    Parameters
    ----------
    job : as one of its faces has it
    name : of a layer
    """
    return next((layer for layer in job.stack if layer.name == name), None)


def with_layer(job: Faced, name: str, change: Callable[[Layer], Layer]) -> Faced:
    """The job with one layer changed; the stack stays in order.

    Parameters
    ----------
    job : as one of its faces has it
    name : of a layer of the job
    change : makes the new layer of the old one
    """
    return job.replace(stack=tuple(change(la) if la.name == name else la for la in job.stack))


def with_choke(layer: Layer, distance: float) -> Layer:
    """The layer with one choke of ``distance`` mm, first among its treatments.

    Parameters
    ----------
    layer : any but colour, usually
    distance : mm, 0 or more

    Raises
    ------
    BadInput
        If there is no such distance.
    """
    others = tuple(t for t in layer.treatments if not isinstance(t, Choke))
    try:
        choke = Choke(least=FINE_STROKE).replace(by=distance)
    except BadInput:
        raise BadInput(
            say("A choke of {distance} cannot be; give 0 or more.", distance=measure(distance))
        ) from None
    return layer.replace(treatments=(choke, *others))


def move(document: Editor, name: str, gap: int) -> None:
    """Move a layer to a gap of the stack, 0 on the substrate to n (number of layers) above all.

    Parameters
    ----------
    document : the job that is worked on
    name : of a layer of the job
    gap : 0 on the substrate, n above all n layers
    """

    def change(job: Faced) -> Faced:
        at = next((i for i, la in enumerate(job.stack) if la.name == name), None)
        if at is None:
            # It went while it was held.
            return job
        rest = (*job.stack[:at], *job.stack[at + 1 :])
        to = max(0, min(len(rest), gap - 1 if gap > at else gap))
        return job.replace(stack=(*rest[:to], job.stack[at], *rest[to:]))

    document.edit(say("Move {name}", name=name), change)


def switch(document: Editor, name: str) -> None:
    """Switch a layer off or on.

    Parameters
    ----------
    document : the job that is worked on
    name : of a layer of the job
    """
    document.edit(
        say("Switch {name}", name=name),
        lambda job: with_layer(job, name, lambda la: la.replace(on=not la.on)),
    )


def remove(document: Editor, name: str) -> None:
    """Take a layer off the stack.

    Parameters
    ----------
    document : the open one
    name : of the layer
    """
    document.edit(
        say("Remove {name}", name=name),
        lambda job: job.replace(stack=tuple(la for la in job.stack if la.name != name)),
    )


def rename(document: Editor, name: str, wanted: str) -> bool:
    """Give a layer another name, which must be its own; whether it could be.

    Parameters
    ----------
    document : the job that is worked on
    name : of a layer of the job
    wanted : the new name
    """
    return document.edit(say("Rename {name}", name=name), lambda job: renamed(job, name, wanted))


def renamed(job: Faced, name: str, wanted: str) -> Faced:
    """The job with another name of a layer; layers that come from it still do.

    Parameters
    ----------
    job : that has the layer
    name, wanted : before and after
    """

    def follow(source: Source) -> Source:
        if isinstance(source, AsLayer) and source.name == name:
            return AsLayer(name=wanted)
        return source

    def spares(holes: Holes) -> Holes:
        return holes if holes.solid is None else holes.replace(solid=follow(holes.solid))

    made = with_layer(job, name, lambda la: la.replace(name=wanted))
    if made.see_through is not None:
        made = made.replace(see_through=spares(made.see_through))
    return made.replace(stack=tuple(
        la.replace(
            source=follow(la.source),
            more=tuple(one.replace(source=follow(one.source)) for one in la.more),
            treatments=tuple(spares(t) if isinstance(t, Holes) else t for t in la.treatments),
        )
        for la in made.stack
    ))  # fmt: skip


def addable(job: Faced | None) -> list[LayerKind]:
    """Kinds of layers that may be added: two of colour for each reader, any number of others.

    Parameters
    ----------
    job : as one of its faces has it
    """
    if job is None:
        return []
    readers = 2 if job.two_readers else 1
    has_colour = sum(la.kind is LayerKind.COLOUR for la in job.stack) >= 2 * readers
    named = any(ink.kind is LayerKind.NAMED for ink in job.printer.inks)
    unfit = {LayerKind.COLOUR: has_colour, LayerKind.NAMED: not named}
    return [kind for kind in LayerKind if not unfit.get(kind, False)]


def free_name(job: Faced, wanted: str) -> str:
    """A name that no layer of the job has.

    Parameters
    ----------
    job : as one of its faces has it
    wanted : what is asked for; a free one like it is taken
    """
    taken = {la.name.casefold() for la in job.stack}
    name, count = wanted, 1
    while name.casefold() in taken:
        count += 1
        name = f"{wanted} {count}"
    return name


def duplicate(document: Editor, name: str) -> str:
    """Put a copy of a layer above it; its name. There are two of colour at the most.

    Parameters
    ----------
    document : the job that is worked on
    name : of a layer of the job
    """
    job = document.job
    layer = layer_named(job, name) if job is not None else None
    if job is None or layer is None or layer.kind not in addable(job):
        return name
    copy = layer.replace(name=free_name(job, layer.name))
    at = job.stack.index(layer) + 1
    document.edit(
        say("Duplicate {name}", name=name),
        lambda j: j.replace(stack=(*j.stack[:at], copy, *j.stack[at:])),
    )
    return copy.name


def insert(document: Editor, layer: Layer, above: str) -> str:
    """Put a layer above another one, under a name that is free; the name.

    A second colour layer is refused, with a sentence.

    Parameters
    ----------
    document : the job that is worked on
    layer : to be put in
    above : name of the layer below
    """
    job = document.job
    if job is None:
        return above
    made = layer.replace(name=free_name(job, layer.name))
    at = next((i + 1 for i, la in enumerate(job.stack) if la.name == above), len(job.stack))
    done = document.edit(
        say("Paste {made}", made=made.name),
        lambda j: j.replace(stack=(*j.stack[:at], made, *j.stack[at:])),
    )
    return made.name if done else above


def add(document: Editor, kind: LayerKind, gap: int) -> str:
    """Add a layer at a gap, 0 on the substrate; gives its name, which no other layer has.

    Parameters
    ----------
    document : the job that is worked on
    kind : of layer
    gap : 0 on the substrate, n above all n layers
    """
    job = document.job
    if job is None:
        return ""
    fresh = _FRESH.get(kind)
    if fresh is None:
        ink = next(ink for ink in job.printer.inks if ink.kind is LayerKind.NAMED)
        fresh = Layer(kind=kind, name=ink.name, ink=ink.name)
    name = free_name(job, fresh.name)
    layer = fresh.replace(name=name, reader=_reader_at(job, kind, gap))
    document.edit(
        say("Add {name}", name=name),
        lambda job: job.replace(stack=(*job.stack[:gap], layer, *job.stack[gap:])),
    )
    return name


def _reader_at(job: Faced, kind: LayerKind, gap: int) -> Reader | None:
    """For whom a layer is that is added at a gap, where a piece has two readers."""
    if not job.two_readers or job.other is None:
        return None
    if kind is LayerKind.COLOUR:
        # The one that has none gets it.
        has_own = any(la.kind is kind and job.is_own(la) for la in job.stack)
        return job.other.reader if has_own else job.reader
    near = job.stack[gap : gap + 1] if job.reader is Reader.THROUGH else job.stack[gap - 1 : gap]
    return near[0].reader if near else job.reader


def with_readers_of(job: Faced, reader: ReadBy) -> Faced:
    """The job with another reader or with two; a change of side turns colour and white over.

    What lies above both stays there.

    Parameters
    ----------
    job : as one of its faces has it
    reader : one, or both

    Raises
    ------
    BadInput
        If it cannot be read so.
    """
    if reader is ReadBy.BOTH:
        return with_two_readers(job)
    return _read_by_one(with_one_reader(job), Reader(reader.value))


def _read_by_one(job: Faced, reader: Reader) -> Faced:
    if (job.reader is Reader.FACE) == (reader is Reader.FACE):
        return job.replace(reader=reader)
    turned = (LayerKind.COLOUR, LayerKind.WHITE)
    at = [i for i, layer in enumerate(job.stack) if layer.kind in turned]
    stack = list(job.stack)
    for place, layer in zip(at, [job.stack[i] for i in reversed(at)], strict=True):
        stack[place] = layer
    return job.replace(reader=reader, stack=tuple(stack))


def set_reader(document: Editor, reader: ReadBy) -> None:
    """State who reads the piece.

    Parameters
    ----------
    document : the job that is worked on
    reader : who is to read the piece
    """
    document.edit(say("Read from"), lambda job: with_readers_of(job, reader))
