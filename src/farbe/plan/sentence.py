"""The job line: the whole job in one sentence."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import number, sizes
from farbe.layout.laid import laid
from farbe.layout.lettering import in_one_line
from farbe.layout.prints import PocketPrint
from farbe.model.job import Guess
from farbe.model.piece import (
    Material,
    Piece,
    Reader,
)
from farbe.plan.order import printing_layers
from farbe.plan.stations import Station

#: Follows what nobody stated yet.
GUESSED = " (a guess)"


@dataclass(frozen=True)
class Phrase:
    """A part of the sentence, the station where it is set, and the values that set it there.

    ``short`` is what is left of it where there is no room for all.
    """

    text: str
    station: Station
    values: tuple[str, ...] = ()
    short: str = ""


def surface_words(piece: Piece) -> str:
    """What a piece's surface is called.

    Parameters
    ----------
    piece : its surface counts
    """
    surface = piece.surface
    if surface.material is Material.CLEAR:
        return surface.name or "clear"
    name = surface.name or surface.colour
    return name if surface.material is Material.OPAQUE else f"{surface.material.value}, {name}"


_READER_WORDS = {
    Reader.FACE: "read from the face",
    Reader.THROUGH: "read through the piece",
    Reader.TRANSFER: "transfer, read once pressed",
}


_SHORT_READER = {
    Reader.FACE: "from the face",
    Reader.THROUGH: "through it",
    Reader.TRANSFER: "transfer",
}


def _layer_count(job: Faced) -> str:
    count = len(printing_layers(job.stack))
    return "1 layer" if count == 1 else f"{count} layers"


def layer_words(job: Faced) -> str:
    """The layers that print, with hits of more than one.

    Parameters
    ----------
    job : as one of its faces has it
    """
    names = []
    for layer in printing_layers(job.stack):
        hits = f" × {layer.hits}" if layer.hits > 1 else ""
        names.append(layer.name.lower() + hits)
    return ", ".join(names) or "no layers"


def duration(seconds: float) -> str:
    """Seconds in words, as minutes and hours.

    Parameters
    ----------
    seconds : 0 or more
    """
    minutes = round(seconds / 60)
    if minutes < 1:
        return "< 1 min"
    return f"{minutes} min" if minutes < 90 else f"{minutes // 60} h {minutes % 60:02d} min"


def _sides(job: Faced) -> str:
    if job.two_readers:
        return " and " + ("through the piece" if job.reader is Reader.FACE else "from the face")
    if not job.two_sided:
        return ""
    return ", the other side" if job.came_up is not None else ", both sides"


def piece_words(job: Faced) -> str:
    """How many pieces of what size and surface.

    Parameters
    ----------
    job : as one of its faces has it
    """
    shape = job.piece.shape
    size = sizes(round(shape.width, 1), round(shape.height, 1))
    return f"{len(laid(job))} of {size}, {surface_words(job.piece)},"


def print_words(job: Faced, what: PocketPrint, numbers: tuple[int, ...], shown: int) -> str:
    """Which print it is: its artwork and words, where it lies, on which side.

    Parameters
    ----------
    job : as one of its faces has it
    what : a print of that face
    numbers : of the places that have it
    shown : the one of them that is looked at
    """
    name = "no artwork" if what.artwork is None else what.artwork.file_name
    parts = [name, *(f"“{in_one_line(text.text)}”" for text in what.texts[:1] if text.text.strip())]
    if numbers:
        word = "pocket" if job.roll is None else "place"
        place = f"{word} {shown if shown in numbers else numbers[0]}"
        alike = len(numbers) - 1
        parts.append(f"{place} and {alike} alike" if alike else place)
    if job.two_sided:
        parts.append(f"side {'AB'[job.number]}")
    elif job.two_readers:
        parts.append(
            "read " + ("through the piece" if job.reader is Reader.THROUGH else "from the face")
        )
    return ", ".join(parts)


def job_line(job: Faced) -> tuple[Phrase, ...]:
    """Phrases in the order in which a job is told.

    Parameters
    ----------
    job : as one of its faces has it
    """
    printer = job.printer
    what = carrier_of(job).words(job, len(laid(job)))
    guesses = job.guesses
    sized = any(guess in guesses for guess in (Guess.PIECE, Guess.COUNT))
    return (
        Phrase(
            what + GUESSED * sized,
            Station.BED,
            ("Columns", "Film width"),
            f"{len(laid(job))} × {job.piece.name}",
        ),
        Phrase(
            surface_words(job.piece) + GUESSED * (Guess.SURFACE in guesses),
            Station.PIECE,
            ("Surface like",),
        ),
        Phrase(layer_words(job), Station.LAYERS, short=_layer_count(job)),
        Phrase(
            _READER_WORDS[job.reader] + _sides(job),
            Station.PIECE,
            ("Read from: the face",),
            _SHORT_READER[job.reader],
        ),
        Phrase(
            f"{number(printer.dpi_x)} × {number(printer.dpi_y)} dpi",
            Station.RUN,
            ("Quality mode",),
            f"{number(max(printer.dpi_x, printer.dpi_y))} dpi",
        ),
    )
