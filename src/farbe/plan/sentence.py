"""The job line: the whole job in one sentence."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from farbe.layout.faced import Faced
from farbe.layout.pockets import used_pockets
from farbe.layout.rolls import film_length
from farbe.model.piece import (
    Circle,
    Ellipse,
    Material,
    Outline,
    Piece,
    Reader,
    Rectangle,
    RoundBody,
)
from farbe.plan.order import printing_layers


class Station(StrEnum):
    """The five places of the window."""

    PIECE = "Piece"
    BED = "Bed"
    LAYERS = "Layers"
    PROOF = "Proof"
    RUN = "Run"


@dataclass(frozen=True)
class Phrase:
    """A part of the sentence and the station where it is set."""

    text: str
    station: Station


def number(value: float, digits: int = 2) -> str:
    """A figure without needless zeros."""
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def shape_words(piece: Piece) -> str:
    match piece.shape:
        case Circle(diameter=diameter):
            return f"round {number(diameter)} mm"
        case Ellipse(width=width, height=height):
            return f"oval {number(width)} × {number(height)} mm"
        case Rectangle(width=width, height=height):
            return f"{number(width)} × {number(height)} mm"
        case RoundBody():
            taper = f" to {number(piece.shape.far_diameter)}" if piece.shape.slope else ""
            return (
                f"round body {number(piece.shape.diameter)}{taper} mm,"
                f" {number(piece.shape.zone)} mm printed"
            )
        case Outline():
            return f"outline {number(piece.shape.width)} × {number(piece.shape.height)} mm"


def surface_words(piece: Piece) -> str:
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


def layer_words(job: Faced) -> str:
    names = []
    for layer in printing_layers(job.stack):
        hits = f" × {layer.hits}" if layer.hits > 1 else ""
        names.append(layer.name.lower() + hits)
    return ", ".join(names) or "no layers"


def duration(seconds: float) -> str:
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


def job_line(job: Faced) -> tuple[Phrase, ...]:
    """Phrases in the order in which a job is told."""
    piece, printer = job.piece, job.printer
    high = f", {number(piece.height)} high" if piece.height else ""
    count = len(used_pockets(job))
    what = f"{count} × {piece.name}, {shape_words(piece)}{high}"
    if job.roll is not None:
        length = number(film_length(job), 0)
        what = f"{count} × {piece.name} on film, {number(job.roll.width)} × {length} mm"
    return (
        Phrase(what, Station.BED),
        Phrase(surface_words(piece), Station.PIECE),
        Phrase(layer_words(job), Station.LAYERS),
        Phrase(_READER_WORDS[job.reader] + _sides(job), Station.PIECE),
        Phrase(f"{number(printer.dpi_x)} × {number(printer.dpi_y)} dpi", Station.RUN),
    )
