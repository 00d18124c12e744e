"""What is seen of the bed and its pieces: films of ink over the light of what is behind."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np
import numpy.typing as npt

from farbe.model.base import rgb
from farbe.press.bed import LaidFilm, PressBed
from farbe.press.truth import Band3, TrueInks

PressPicture = npt.NDArray[np.uint8]
#: Linear sRGB, float32 (h, w, 3).
PressLight = npt.NDArray[np.float32]
BED_GREY = 0.045
#: Light from behind that a bare piece lets through, by its material, and share of its colour.
_LETS_THROUGH = {"clear": 0.97, "translucent": 0.48}
#: Light that a clear piece gives back, and lets through, where it is looked through.
_CLEAR = 0.012, 0.968


def bed_light(bed: PressBed, inks: TrueInks) -> PressLight:
    """The bed from above.

    Parameters
    ----------
    bed : as it is now
    inks : of the press
    """
    return by_day(bed.on_pieces, bare_light(bed, inks), inks)


def bare_light(bed: PressBed, inks: TrueInks) -> PressLight:
    """The bed from above without what is printed on the pieces.

    Parameters
    ----------
    bed : as it is now
    inks : of the press
    """
    ticket, board = bed.ticket, bed.ticket.board
    light = np.full((*bed.shape, 3), BED_GREY, np.float32)
    left, right = round(board.x * bed.scale), round((board.x + board.width) * bed.scale)
    top = round((ticket.bed_height - board.y - board.height) * bed.scale)
    bottom = round((ticket.bed_height - board.y) * bed.scale)
    light[max(0, top) : bottom, max(0, left) : right] = linear(board.colour)
    light = by_day(bed.on_board, light, inks)
    if bed.pieces and ticket.medium == "bed":
        light = _with_pieces(bed, light)
    return light


def by_day(films: Sequence[LaidFilm], light: PressLight, inks: TrueInks) -> PressLight:
    """What is seen through films, by light from the eye's side.

    Parameters
    ----------
    films : from what is farthest from the eye
    light : of what lies behind them all
    inks : of the press
    """
    for film in films:
        for _ in range(film.hits):
            for ink, plate in film.coverage.items():
                if ink == "varnish":
                    continue
                area = inks.area(ink, plate)[..., None]
                reflected, through = _solid(film.kind, ink, inks)
                solid = reflected + through**2 * light / (1.0 - reflected * light)
                light = np.asarray(light + area * (solid - light), np.float32)
    cover = _varnish_on_top(films)
    if cover is not None:
        glossy = (light - inks.shine) / (1.0 - inks.shine)
        light = np.asarray(light + cover[..., None] * (glossy - light), np.float32)
    return light


def _varnish_on_top(films: Sequence[LaidFilm]) -> npt.NDArray[np.float32] | None:
    """How much of the surface is varnish that nothing covers."""
    cover = None
    for film in films:
        if film.kind == "varnish":
            plate = np.asarray(np.max(list(film.coverage.values()), axis=0), np.float32)
            cover = plate if cover is None else np.maximum(cover, plate)
        elif cover is not None:
            over = np.max(list(film.coverage.values()), axis=0) > 0
            cover = np.where(over, np.float32(0), cover)
    return cover


def from_behind(films: Sequence[LaidFilm], lamp: PressLight, inks: TrueInks) -> PressLight:
    """What comes through films by light from behind them.

    Parameters
    ----------
    films : from the lamp to the eye
    lamp : light that comes to the first of them
    inks : of the press
    """
    through, back = lamp, np.zeros_like(lamp)
    for film in films:
        for _ in range(film.hits):
            for ink, plate in film.coverage.items():
                if ink == "varnish":
                    continue
                area = inks.area(ink, plate, lit=True)[..., None]
                r, t = _solid(film.kind, ink, inks)
                r, t = area * r, 1.0 - area + area * t
                between = 1.0 - r * back
                through, back = through * t / between, r + t * t * back / between
    return np.asarray(through, np.float32)


def _solid(kind: str, ink: str, inks: TrueInks) -> tuple[Band3, Band3]:
    """One solid film: what it reflects and lets through."""
    if kind == "blackout":
        return inks.blackout
    if ink == "white":
        return inks.white
    return np.zeros(3, np.float32), inks.through[ink]


def through_piece(light: PressLight) -> PressLight:
    """What is seen through a clear piece.

    Parameters
    ----------
    light : of what lies behind it, (h, w, 3)
    """
    back, through = _CLEAR
    return np.asarray(back + through**2 * light / (1.0 - back * light), np.float32)


def ground_of(bed: PressBed, of: str, kind: int, garment: int | None) -> str:
    """The colour of what lies behind a piece's films.

    Parameters
    ----------
    bed : as it is now
    of : of which picture
    kind : of piece, its place in the ticket
    garment : that it is pressed onto, its place in the ticket
    """
    piece = bed.ticket.pieces[kind]
    if garment is not None:
        return bed.ticket.garments[garment].colour
    return "#b9bcbd" if of == "turned" and piece.material == "clear" else piece.colour


def lamp_light(bed: PressBed, kind: int) -> PressLight:
    """Light from behind that comes through a bare piece.

    Parameters
    ----------
    bed : as it is now
    kind : of piece, its place in the ticket
    """
    piece = bed.ticket.pieces[kind]
    share = _LETS_THROUGH.get(piece.material, 0.0)
    colour = (1.0, 1.0, 1.0) if piece.material == "clear" else linear(piece.colour)
    return np.full((*bed.shape, 3), np.array(colour) * share, np.float32)


def _with_pieces(bed: PressBed, light: PressLight) -> PressLight:
    """Pieces on the board, with the shadow that their height throws."""
    for kind, piece in enumerate(bed.ticket.pieces):
        mask, outline = np.zeros(bed.shape, np.uint8), bed.outline(kind)
        for one in bed.pieces:
            if one.kind == kind:
                place = (one.x, bed.ticket.bed_height - one.y)
                points = (outline * (1, -1) + place) * bed.scale - 0.5
                cv2.fillPoly(mask, [np.rint(points * 256).astype(np.int32)], (255,), cv2.LINE_AA, 8)
        reach = 0.5 + min(piece.height, 20.0) * 0.12
        shade = cv2.GaussianBlur(mask, (0, 0), reach * bed.scale / 2).astype(np.float32) / 255.0
        light = light * (1.0 - 0.55 * shade[..., None])
        cover = (mask.astype(np.float32) / 255.0)[..., None]
        if piece.material == "clear":
            light = np.asarray(light * (1.0 - 0.08 * cover), np.float32)
        else:
            colour = np.array(linear(piece.colour), np.float32)
            light = np.asarray(light + cover * (colour - light), np.float32)
    return light


def linear(colour: str) -> tuple[float, ...]:
    """Linear sRGB of ``#rrggbb``.

    Parameters
    ----------
    colour : ``#rrggbb``
    """
    levels = (level / 255.0 for level in rgb(colour))
    return tuple(v / 12.92 if v <= 0.04045 else ((v + 0.055) / 1.055) ** 2.4 for v in levels)


def shown(light: PressLight) -> PressPicture:
    """Light as sRGB uint8, (h, w, 3).

    Parameters
    ----------
    light : linear, float32 (h, w, 3)
    """
    clipped = np.clip(light, 0.0, 1.0)
    encoded = np.where(clipped <= 0.0031308, clipped * 12.92, 1.055 * clipped ** (1 / 2.4) - 0.055)
    return np.asarray(np.rint(encoded * 255.0), dtype=np.uint8)
