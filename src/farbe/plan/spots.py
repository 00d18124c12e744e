"""What named plates of artwork are for."""

from __future__ import annotations

from farbe.art.artwork import Artwork
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, PlateUse
from farbe.model.inkwords import told_by
from farbe.model.layer import VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.meaning import Meaning
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import FilePlate, Otherwise, PlateNamed


def uses_of(artwork: Artwork) -> tuple[PlateUse, ...]:
    """What an artwork's plates are likely for; those whose names tell nothing are asked about.

    Parameters
    ----------
    artwork : as it was read
    """
    return tuple(likely_use(name, artwork.alternates.get(name)) for name in artwork.plates)


def likely_use(name: str, alternate: tuple[float, float, float, float] | None = None) -> PlateUse:
    """What a plate is likely for, as its name tells.

    Parameters
    ----------
    name : as the file has it
    alternate : percent of the process inks that its ink looks like
    """
    told = told_by(name)
    use = PlateUse(name=name, meaning=told or Meaning.UNKNOWN, guessed=told is not None)
    return use if alternate is None else use.replace(inks=alternate)


def with_plates(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with layers that print an artwork's plates of white, varnish and named inks.

    The first layer of the kind takes the plate for this artwork, and the shape for others that have
    none; without a layer, one is added where the reader calls for it.

    Parameters
    ----------
    job : that has the artwork
    artwork : with its plates
    """
    for use in artwork.plates:
        if use.meaning in _LAYERS:
            job = _from_plate(job, use.meaning)
        elif use.meaning is Meaning.INK:
            job = _with_ink(job, use.name)
    return job


def with_use(job: Faced, key: str, made: PlateUse) -> Faced:
    """The job with another use of a plate of one of its artworks, and layers that print it.

    Parameters
    ----------
    job : that has the artwork
    key : of the artwork
    made : the use; the plate of its name has it now
    """
    arts = tuple(
        art.replace(plates=tuple(made if use.name == made.name else use for use in art.plates))
        if art.key == key else art
        for art in job.artworks
    )  # fmt: skip
    own = next(art for art in arts if art.key == key).replace(plates=(made,))
    return with_plates(job.replace(artworks=arts), own)


#: Layers that plates of the file go to.
_LAYERS = {
    Meaning.WHITE: (LayerKind.WHITE, WHITE_UNDER),
    Meaning.VARNISH: (LayerKind.VARNISH, VARNISH_OVER),
}


def _from_plate(job: Faced, meaning: Meaning) -> Faced:
    kind, fresh = _LAYERS[meaning]
    there = next((layer for layer in job.stack if layer.kind is kind), None)
    if there is not None:
        if isinstance(there.source, FilePlate | PlateNamed) and there.on:
            return job
        made = there.replace(source=FilePlate(meaning=meaning), more=(), on=True)
        return job.replace(stack=tuple(made if la is there else la for la in job.stack))
    # Others that bring no plate were to have none.
    layer = fresh.replace(source=FilePlate(meaning=meaning, otherwise=Otherwise.NOTHING))
    below = kind is LayerKind.WHITE and job.reader is Reader.FACE
    return job.replace(stack=(layer, *job.stack) if below else (*job.stack, layer))


def _with_ink(job: Faced, name: str) -> Faced:
    """With a layer for a plate whose ink the printer has under the same name."""
    ink = next((ink for ink in job.printer.inks if ink.kind is LayerKind.NAMED
                and ink.name.casefold() == name.casefold()), None)  # fmt: skip
    if ink is None or any(_takes(layer, name) for layer in job.stack):
        return job
    taken = {layer.name for layer in job.stack}
    called = next(
        n for n in (ink.name, *(f"{ink.name} {i}" for i in range(2, 99))) if n not in taken
    )
    layer = Layer(kind=LayerKind.NAMED, name=called, ink=ink.name, source=PlateNamed(name=name))
    return job.replace(stack=(*job.stack, layer))


def _takes(layer: Layer, name: str) -> bool:
    return any(isinstance(source, PlateNamed) and source.name.casefold() == name.casefold()
               for source in layer.sources)  # fmt: skip


def prints_plate(job: Faced, use: PlateUse) -> bool:
    """Whether a plate that is meant to be an ink of its own goes to a layer that prints.

    Parameters
    ----------
    job : whose artwork has the plate
    use : of the plate
    """
    kind = _LAYERS[use.meaning][0] if use.meaning in _LAYERS else LayerKind.NAMED
    return any(
        layer.on and (
            _takes(layer, use.name)
            or (layer.kind is kind and isinstance(layer.source, FilePlate)
                and layer.source.meaning is use.meaning)
        )
        for layer in job.stack
    )  # fmt: skip


def with_own_plates(stack: tuple[Layer, ...], uses: tuple[PlateUse, ...]) -> tuple[Layer, ...]:
    """A stack whose white and varnish come from plates of the file, where there are such.

    Parameters
    ----------
    stack : from the substrate up
    uses : what the plates are for
    """
    own = {use.meaning for use in uses}
    kinds = {kind: meaning for meaning, (kind, _) in _LAYERS.items() if meaning in own}
    return tuple(
        layer.replace(source=FilePlate(meaning=kinds[layer.kind]), more=())
        if layer.kind in kinds else layer
        for layer in stack
    )  # fmt: skip
