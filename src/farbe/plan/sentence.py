"""The job line: the whole job in one sentence."""

from __future__ import annotations

from dataclasses import dataclass

from farbe.layout.carrier import carrier_of
from farbe.layout.faced import Faced
from farbe.layout.figures import number, sizes
from farbe.layout.laid import laid
from farbe.layout.lettering import in_one_line
from farbe.layout.prints import PocketPrint
from farbe.model.condition import Origin
from farbe.model.job import Guess
from farbe.model.piece import (
    Material,
    Piece,
    Reader,
)
from farbe.plan.order import printing_layers
from farbe.plan.stations import Station
from farbe.said import inside, say, say_count, spoken

#: The value that says who reads the piece, as the field of its first answer is called.
READ_FROM_THE_FACE = f"{say('Read from')}: {say('the face')}"
#: Follows what nobody stated yet.
GUESSED = say(" (a guess)")


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
        return spoken(surface.name) or say("clear")
    name = spoken(surface.name) or surface.colour
    return name if surface.material is Material.OPAQUE else f"{surface.material.words}, {name}"


_READER_WORDS = {
    Reader.FACE: say("read from the face"),
    Reader.THROUGH: say("read through the piece"),
    Reader.TRANSFER: say("transfer, read once pressed"),
}


_SHORT_READER = {
    Reader.FACE: say("from the face"),
    Reader.THROUGH: say("through it"),
    Reader.TRANSFER: say("transfer"),
}


def _layer_count(job: Faced) -> str:
    count = len(printing_layers(job.stack))
    return say_count(count, "1 layer", "{count} layers")


def layer_words(job: Faced) -> str:
    """The layers that print, with hits of more than one.

    Parameters
    ----------
    job : as one of its faces has it
    """
    names = []
    for layer in printing_layers(job.stack):
        hits = f" × {layer.hits}" if layer.hits > 1 else ""
        names.append(inside(layer.words) + hits)
    return ", ".join(names) or say("no layers")


def duration(seconds: float) -> str:
    """Seconds in words, as minutes and hours.

    Parameters
    ----------
    seconds : 0 or more
    """
    minutes = round(seconds / 60)
    if minutes < 1:
        return say("< 1 min")
    return (
        say("{minutes} min", minutes=minutes)
        if minutes < 90
        else say("{hours} h {minutes} min", hours=minutes // 60, minutes=f"{minutes % 60:02d}")
    )


def _sides(job: Faced) -> str:
    if job.two_readers:
        return (
            say(" and through the piece")
            if job.reader is Reader.FACE
            else say(" and from the face")
        )
    if not job.two_sided:
        return ""
    return say(", the other side") if job.came_up is not None else say(", both sides")


def piece_words(job: Faced) -> str:
    """How many pieces of what size and surface.

    Parameters
    ----------
    job : as one of its faces has it
    """
    shape = job.piece.shape
    size = sizes(round(shape.width, 1), round(shape.height, 1))
    return say(
        "{count} of {size}, {surface},",
        count=len(laid(job)),
        size=size,
        surface=surface_words(job.piece),
    )


def print_words(job: Faced, what: PocketPrint, numbers: tuple[int, ...], shown: int) -> str:
    """Which print it is: its artwork and words, where it lies, on which side.

    Parameters
    ----------
    job : as one of its faces has it
    what : a print of that face
    numbers : of the places that have it
    shown : the one of them that is looked at
    """
    name = say("no artwork") if what.artwork is None else what.artwork.file_name
    parts = [name, *(f"“{in_one_line(text.text)}”" for text in what.texts[:1] if text.text.strip())]
    if numbers:
        number = shown if shown in numbers else numbers[0]
        place = (
            say("pocket {number}", number=number)
            if job.roll is None
            else say("place {number}", number=number)
        )
        alike = len(numbers) - 1
        parts.append(say("{place} and {alike} alike", place=place, alike=alike) if alike else place)
    if job.two_sided:
        parts.append(say("side {letter}", letter="AB"[job.number]))
    elif job.two_readers:
        parts.append(
            say("read through the piece")
            if job.reader is Reader.THROUGH
            else say("read from the face")
        )
    return ", ".join(parts)


def condition_words(job: Faced) -> str:
    """What the job's colours, white and limits rest on.

    Parameters
    ----------
    job : as one of its faces has it
    """
    condition = job.condition
    if condition is None:
        return say("printer not measured")
    if condition.origin is Origin.ESTIMATED:
        return say("estimated: {name}", name=spoken(condition.name))
    return say("measured: {name}", name=spoken(condition.name))


def _known_shortly(job: Faced) -> str:
    condition = job.condition
    sure = condition is not None and condition.origin is Origin.MEASURED
    return say("measured") if sure else say("not measured")


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
            (say("Columns"), say("Film width")),
            f"{len(laid(job))} × {spoken(job.piece.name)}",
        ),
        Phrase(
            surface_words(job.piece) + GUESSED * (Guess.SURFACE in guesses),
            Station.PIECE,
            (say("Surface like"),),
        ),
        Phrase(layer_words(job), Station.LAYERS, short=_layer_count(job)),
        Phrase(
            _READER_WORDS[job.reader] + _sides(job),
            Station.PIECE,
            (READ_FROM_THE_FACE,),
            _SHORT_READER[job.reader],
        ),
        Phrase(
            say("{dpi_x} × {dpi_y} dpi", dpi_x=number(printer.dpi_x), dpi_y=number(printer.dpi_y)),
            Station.RUN,
            (say("Quality mode"),),
            f"{number(max(printer.dpi_x, printer.dpi_y))} dpi",
        ),
        Phrase(condition_words(job), Station.RUN, (say("Conditions"),), _known_shortly(job)),
    )
