"""What named plates of artwork are for."""

from __future__ import annotations

from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, Meaning
from farbe.model.layer import VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.piece import Reader
from farbe.model.printer import LayerKind
from farbe.model.source import PlateNamed

#: Parts of names that tell what a plate is for, in the order in which they are looked for.
_TELLING = (
    ("cut", Meaning.CUT),
    ("varnish", Meaning.VARNISH),
    ("gloss", Meaning.VARNISH),
    ("clear", Meaning.VARNISH),
    ("white", Meaning.WHITE),
    ("silver", Meaning.INK),
    ("gold", Meaning.INK),
    ("metallic", Meaning.INK),
)


def meant(name: str) -> Meaning:
    """What a plate of this name is likely for; what tells nothing is colour."""
    plain = name.casefold()
    return next((meaning for part, meaning in _TELLING if part in plain), Meaning.COLOUR)


def with_plates(job: Faced, artwork: ArtworkFile) -> Faced:
    """The job with layers that print an artwork's plates of white and varnish.

    The first layer of the kind takes the plate as its source; without one, it is added where the
    reader calls for it.
    """
    for use in artwork.plates:
        if use.meaning is Meaning.WHITE:
            job = _from_plate(job, LayerKind.WHITE, WHITE_UNDER, use.name)
        elif use.meaning is Meaning.VARNISH:
            job = _from_plate(job, LayerKind.VARNISH, VARNISH_OVER, use.name)
    return job


def _from_plate(job: Faced, kind: LayerKind, fresh: Layer, name: str) -> Faced:
    source = PlateNamed(name=name)
    there = next((layer for layer in job.stack if layer.kind is kind), None)
    if there is not None:
        made = there.replace(source=source, second=None, treatments=(), on=True)
        return job.replace(stack=tuple(made if la is there else la for la in job.stack))
    layer = fresh.replace(source=source, treatments=())
    below = kind is LayerKind.WHITE and job.reader is Reader.FACE
    return job.replace(stack=(layer, *job.stack) if below else (*job.stack, layer))


def with_own_plates(stack: tuple[Layer, ...], names: tuple[str, ...]) -> tuple[Layer, ...]:
    """A stack whose white and varnish come from plates of the file, where their names say so."""
    kinds = {LayerKind.WHITE: Meaning.WHITE, LayerKind.VARNISH: Meaning.VARNISH}
    own = {meant(name): name for name in reversed(names)}
    made = []
    for layer in stack:
        name = own.get(kinds[layer.kind]) if layer.kind in kinds else None
        made.append(
            layer
            if name is None
            else layer.replace(source=PlateNamed(name=name), second=None, treatments=())
        )
    return tuple(made)
