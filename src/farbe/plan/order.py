"""Order and mirroring from who reads the piece."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from farbe.layout.faced import Faced
from farbe.model.base import rgb
from farbe.model.layer import COLOUR, VARNISH_OVER, WHITE_UNDER, Layer
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import Ink, LayerKind, Printer
from farbe.model.receiver import Receiver
from farbe.said import inside, say, spoken


def default_stack(reader: Reader, *, varnish: bool = False) -> tuple[Layer, ...]:
    """The stack, substrate up, that a reader calls for.

    Colour must lie between the reader and the white. Varnish is an outermost film that is
    touched, so it goes on a face only.

    Parameters
    ----------
    reader : who looks
    varnish : with varnish on top

    Returns
    -------
    From the substrate up.
    """
    if reader is Reader.FACE:
        return (WHITE_UNDER, COLOUR, *((VARNISH_OVER,) if varnish else ()))
    return (COLOUR, WHITE_UNDER, *((VARNISH_OVER,) if varnish else ()))


def mirrored(reader: Reader) -> bool:
    """Whether the print must be mirrored to be read the right way round.

    Parameters
    ----------
    reader : who reads the piece
    """
    return reader is not Reader.FACE


def files_mirrored(reader: Reader, receiver: Receiver) -> bool:
    """Whether the files are mirrored as they are, rather than turned by the receiver.

    Parameters
    ----------
    reader : who reads the piece
    receiver : that takes the files
    """
    return mirrored(reader) and not receiver.mirrors


def printing_layers(stack: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """The layers that are switched on.

    Parameters
    ----------
    stack : substrate up
    """
    return tuple(layer for layer in stack if layer.on)


def mirror_reason(reader: Reader, receiver: Receiver | None = None) -> str:
    """Why the print is mirrored or not, in one sentence.

    Parameters
    ----------
    reader : who reads the piece
    receiver : that takes the files
    """
    by_receiver = receiver is not None and receiver.mirrors
    hand = (
        say("; {receiver} does the mirroring", receiver=spoken(receiver.name))
        if receiver is not None and by_receiver
        else ""
    )
    match reader:
        case Reader.FACE:
            return say("Nothing is mirrored, because the reader looks at the ink itself.")
        case Reader.THROUGH:
            return say("Mirrored, because the reader looks through the piece{hand}.", hand=hand)
        case Reader.TRANSFER:
            return say(
                "Mirrored, because the transfer is turned over when it is pressed{hand}.", hand=hand
            )


def then(layers: Iterable[Layer]) -> str:
    """The names of layers in the order in which they print, within a sentence.

    Parameters
    ----------
    layers : the first to print first
    """
    return say(" then ").join(inside(layer.words) for layer in layers)


def order_reason(reader: Reader, stack: tuple[Layer, ...]) -> str:
    """Why the layers go down in this order, in one sentence.

    Parameters
    ----------
    reader : who reads the piece
    stack : layers, from the substrate up
    """
    kinds = [layer.kind for layer in printing_layers(stack)]
    names = then(printing_layers(stack))
    if not kinds:
        return say("No layer is switched on, so nothing prints.")
    if LayerKind.WHITE not in kinds or LayerKind.COLOUR not in kinds:
        return say("Prints {names}.", names=names)
    colours = [place for place, kind in enumerate(kinds) if kind is LayerKind.COLOUR]
    # Of two colours, the one behind the white is seen when the piece is lit.
    front = colours[-1] if reader is Reader.FACE else colours[0]
    white_first = kinds.index(LayerKind.WHITE) < front
    if white_first is (reader is Reader.FACE):
        if reader is Reader.FACE:
            return say(
                "Prints {names}, so that from the face the colour is seen in front of the white.",
                names=names,
            )
        return say(
            "Prints {names}, so that from the other side of the substrate the colour is seen in "
            "front of the white.",
            names=names,
        )
    return say("Prints {names}: the white hides the colour from the reader.", names=names)


def needs_white(surface: Surface) -> bool:
    """Whether colour vanishes on a surface without white: all but light opaque ones.

    Parameters
    ----------
    surface : material and colour

    Returns
    -------
    True where colour without white all but vanishes.
    """
    if surface.material in (Material.CLEAR, Material.TRANSLUCENT):
        return True
    return min(rgb(surface.colour)) < 225


@dataclass(frozen=True)
class Channel:
    """One plate of a job: its layer, its ink, and a name that no other channel has."""

    layer: Layer
    ink: Ink
    name: str


def channels(job: Faced) -> tuple[Channel, ...]:
    """Channels of a job in the order of the printer's inks.

    The first layer of an ink has the receiver's name for it. Another one is called as its layer
    ("Blackout"), colours of another picture are numbered ("Cyan 2"). Layers whose ink the printer
    lacks have no channel; a check stops such a job.

    Parameters
    ----------
    job : as the face has it that is printed

    Returns
    -------
    In the order of the printer's inks.
    """
    return channels_of(printing_layers(job.stack), job.printer, job.receiver)


def layer_for_ink(job: Faced, name: str) -> Layer | None:
    """The first layer that prints an ink of the printer for its reader; None without such a layer.

    Parameters
    ----------
    job : told by its reader
    name : of the ink
    """
    return next(
        (layer for layer in printing_layers(job.stack) if job.is_own(layer)
         and any(ink.name == name for ink in job.printer.inks_of(layer.kind, layer.ink))),
        None,
    )  # fmt: skip


def channels_of(
    layers: tuple[Layer, ...], printer: Printer, receiver: Receiver
) -> tuple[Channel, ...]:
    """Channels of layers that are printed in the same runs; see :func:`channels`.

    Parameters
    ----------
    layers : from the substrate up
    printer : that prints
    receiver : that takes the files
    """
    result: list[Channel] = []
    taken = {receiver.channel(ink.name).casefold() for ink in printer.inks}
    for ink in printer.inks:
        found = [layer for layer in layers if ink in printer.inks_of(layer.kind, layer.ink)]
        # Process colour comes first, so that its channel has the ink's plain name.
        found.sort(key=lambda layer: layer.kind is not LayerKind.COLOUR)
        for number, layer in enumerate(found, start=1):
            name = receiver.channel(ink.name)
            if number > 1 and layer.kind is not LayerKind.COLOUR:
                # An ink that prints something else is told by what it prints.
                name = layer.name
            wanted, more = name, number
            while number > 1 and wanted.casefold() in taken:
                wanted, more = f"{name} {more}", more + 1
            taken.add(wanted.casefold())
            result.append(Channel(layer, ink, wanted))
    return tuple(result)
