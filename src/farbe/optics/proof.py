"""A proof as a picture."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import first_print
from farbe.layout.prints import one_print
from farbe.model.base import BadInput
from farbe.model.piece import Reader
from farbe.optics.view import Behind, View, seen_as
from farbe.plan.order import channels, printing_layers
from farbe.plan.words import choice, surface_of
from farbe.render.glimpse import part_of
from farbe.render.piece import piece_separation
from farbe.render.piecetile import plate_order
from farbe.render.sources import Sources
from farbe.said import say, shipped
from farbe.separate.outline import rasterise


def proof_picture(
    job: Faced,
    sources: Sources,
    *,
    pixels: int,
    reader: str | None = None,
    surface: str | None = None,
    behind: str | None = None,
    lit: float = 0.0,
    plate: str | None = None,
) -> Pixels:
    """What a job's first print looks like, sRGB uint8 (h, w, 3).

    Parameters
    ----------
    job : as one of its faces has it
    sources : its artworks, profiles and fonts
    pixels : along the piece's longer side
    reader, surface : in place of the job's own: face, through or transfer; #rrggbb or clear. A
        reader on the other side sees the same print turned over.
    behind : what is behind a clear piece, by :class:`Behind`
    lit : from daylight, 0, to light from behind alone, 1
    plate : name of a channel that is shown alone, black on white

    Returns
    -------
    sRGB, uint8 (h, w, 3)

    Raises
    ------
    BadInput
        For words that cannot be taken, or a job that prints nothing.
    """
    first = first_print(job)
    of, grid = one_print(job, first), sampling_grid(job, pixels)
    layers = printing_layers(of.stack)
    if not layers:
        raise BadInput(say("No layer is switched on, so there is nothing to show; switch one on."))
    separation = piece_separation(of, sources, grid, as_read=True)
    if plate is not None:
        return _one_plate(of, separation.plates(0, separation.size[1]), plate)
    whole = part_of(of, sources, separation, None)
    wanted = choice(Reader, reader, shipped("reader")) if reader else of.reader
    view = View(
        other_side=(wanted is Reader.FACE) is not (of.reader is Reader.FACE),
        surface=surface_of(surface) if surface else None,
        behind=choice(Behind, behind, shipped("background")) if behind else Behind.WALL,
    )
    found = seen_as(whole, view)
    # Beyond the piece there is paper.
    inside = rasterise(separation.piece, separation.size[0], 0, separation.size[1])
    inside = inside[:, ::-1] if view.other_side else inside
    share = inside[..., None].astype(np.float32) / 255.0
    return np.asarray(np.rint(found.by(lit) * share + 255.0 * (1.0 - share)), dtype=np.uint8)


def _one_plate(job: Faced, plates: list[Pixels], name: str) -> Pixels:
    found = channels(job)
    order = plate_order(found, printing_layers(job.stack))
    for channel, index in zip(found, order, strict=True):
        if channel.name.casefold() == name.casefold():
            return np.repeat(255 - plates[index][..., None], 3, axis=2)
    known = ", ".join(channel.name for channel in found)
    raise BadInput(say("There is no plate {name}; there are: {known}.", name=name, known=known))


def write_png(picture: Pixels, path: Path) -> None:
    """Write a picture whole or not at all; BadInput if it cannot be written.

    Parameters
    ----------
    picture : sRGB, uint8 (h, w, 3)
    path : the file
    """
    with whole_file(path) as file:
        Image.fromarray(picture).save(file, format="PNG")
