"""The separation of one piece."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from farbe.art.artwork import Artwork, Pixels, Space
from farbe.kept import Kept
from farbe.layout.faced import Faced
from farbe.layout.lettering import set_box
from farbe.model.base import rgb
from farbe.model.edit import Recolour
from farbe.model.job import Intent
from farbe.model.layer import Layer
from farbe.model.meaning import Meaning
from farbe.model.printer import LayerKind
from farbe.model.text import TextBox
from farbe.model.treatment import Choke, Dots, Grain, Pinholes, Specks, Spread, Treatment
from farbe.plan.order import Channel, layer_for_ink, mirrored, printing_layers
from farbe.render.inklimits import ink_limits, layer_curves
from farbe.render.pieceframe import (
    EMPTY,
    PieceFrame,
    beyond,
    clip_rings,
    lettered,
    place,
    ring_pixels,
)
from farbe.render.raster import ChannelInfo
from farbe.render.sources import Sources
from farbe.separate.colour import Blend, Converter, converter_for
from farbe.separate.grid import Grid
from farbe.separate.inkwork import ColourWork
from farbe.separate.lettering import Lettering
from farbe.separate.ownplates import is_seen
from farbe.separate.place import PlacedArtwork
from farbe.separate.plates import Separation

#: Stands for the layer of type whose ink no layer prints; a check stops such a job.
NO_LAYER = "no layer"


def job_artwork(job: Faced, sources: Sources) -> Artwork | None:
    """The pixels of a job's first artwork, if it has one.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profile
    """
    return None if job.artwork is None else sources.artwork(job.artwork, job)


def piece_separation(
    job: Faced,
    sources: Sources,
    grid: Grid,
    *,
    layers: tuple[Layer, ...] | None = None,
    as_read: bool = False,
    turn: float = 0.0,
    placed: PlacedArtwork | None = None,
    canvas: PieceFrame | None = None,
) -> Separation:
    """The separation of one piece of a job, with the job's first artwork.

    Parameters
    ----------
    job : as one of its faces has it
    sources : its artworks, profiles and fonts
    grid : the printer's resolution, or a coarser one for the screen
    layers : the layers wanted; all that print, if not given
    as_read : never mirrored, as the reader sees it
    turn : degrees, anticlockwise as read, by which the whole print is turned
    placed : the artwork if it was placed before, with all else the same
    canvas : the pixels to draw on, if they are not to be just around the piece
    """
    canvas = canvas or PieceFrame.of(job, grid, turn)
    wanted = _as_seen(job, grid, printing_layers(job.stack) if layers is None else layers)
    own = _separation(job, sources, canvas, wanted, placed=placed)
    if job.two_readers and job.other is not None:
        other = _separation(job.other, sources, canvas.behind, wanted)
        theirs = frozenset(layer.name for layer in wanted if not job.is_own(layer))
        # Each knows the other's shape, but not what the other knows of it.
        own = replace(own, opposite=replace(other, opposite=own), opposite_layers=theirs)
    return replace(own, mirrored=not as_read and mirrored(job.reader))


def _separation(
    job: Faced,
    sources: Sources,
    canvas: PieceFrame,
    layers: tuple[Layer, ...],
    *,
    placed: PlacedArtwork | None = None,
) -> Separation:
    """The separation for one reader, as that one sees it."""
    profile = sources.profile(job)
    placed = placed or place(job, job_artwork(job, sources), canvas)
    return Separation(
        placed=placed,
        layers=layers,
        converter=job_converter(job, placed.artwork, profile),
        grid=canvas.grid,
        middle=canvas.middle,
        piece=ring_pixels(job.piece.shape, 0.0, canvas),
        clip=clip_rings(job, canvas),
        profile=profile,
        pixels=canvas.pixels,
        colours=colour_work(job, placed.artwork),
        meant=_meant(job),
        stack=_as_seen(job, canvas.grid, job.stack),
        named=_named_plates(job, sources, canvas, placed),
        limits=ink_limits(job),
        sent={layer.name: layer_curves(job, layer) for layer in layers},
        lettering=tuple(_lettering(job, box, sources, canvas) for box in job.texts if box.text),
        see_through=job.see_through,
    )


def dot_side(dots: Dots) -> float:
    """Side in mm of what a screen is made of: a single dot, or the cell of one.

    Parameters
    ----------
    dots : sizes in mm
    """
    return dots.dot if dots.grain is Grain.NOISE else 10.0 / dots.per_cm


def lost_dots(layer: Layer) -> Dots | None:
    """The layer's dots, if a later treatment changes their shape.

    Then the mean of the dots is not the tone that they are made from.

    Parameters
    ----------
    layer : any of the job's
    """
    active = layer.active
    for at, treatment in enumerate(active):
        if isinstance(treatment, Dots) and any(
            isinstance(later, Choke | Spread | Specks | Pinholes) for later in active[at + 1 :]
        ):
            return treatment
    return None


def _as_seen(job: Faced, grid: Grid, layers: tuple[Layer, ...]) -> tuple[Layer, ...]:
    """Layers for a grid; on a coarse one, dots that are finer than its pixels stay tones."""
    if grid.dpi_x >= 0.99 * min(job.printer.dpi_x, job.printer.dpi_y):
        return layers
    pixel = 1.0 / min(grid.per_mm_x, grid.per_mm_y)

    def fine(treatment: Treatment) -> bool:
        if not isinstance(treatment, Dots):
            return False
        return dot_side(treatment) < 3.0 * pixel

    return tuple(
        layer.replace(treatments=tuple(t for t in layer.treatments if not fine(t)))
        if any(fine(t) for t in layer.treatments)
        else layer
        for layer in layers
    )


def _meant(job: Faced) -> dict[Meaning, tuple[str, ...]]:
    """Names of the first artwork's plates by what they are for."""
    uses = job.artwork.plates if job.artwork is not None else ()
    return {
        meaning: tuple(use.name for use in uses if use.meaning is meaning) for meaning in Meaning
    }


def colour_work(job: Faced, artwork: Artwork) -> ColourWork:
    """What the job's first artwork and its conversion say is done to process inks by hand.

    Parameters
    ----------
    job : whose first artwork it is
    artwork : its pixels; where they are inks, plates of colour are among them already
    """
    art, gains = job.artwork, job.conversion.gains
    return ColourWork(
        recoloured=tuple(e for e in art.edits if isinstance(e, Recolour) and e.on) if art else (),
        gains=(gains.cyan, gains.magenta, gains.yellow, gains.black),
        printed=tuple(
            (use.name, use.inks) for use in art.plates if is_seen(use, artwork)
        ) if art and artwork.space is not Space.CMYK else (),
    )  # fmt: skip


def _named_plates(
    job: Faced, sources: Sources, canvas: PieceFrame, placed: PlacedArtwork
) -> dict[str, PlacedArtwork]:
    """Plates that came with the job's first artwork, placed as it is."""
    if job.artwork is None:
        return {}
    whole = sources.artwork(job.artwork, job)
    return {
        name.casefold(): place(job, replace(whole, pixels=plane[..., None], space=Space.GREY,
                                            icc=None, plates={}), canvas)
        for name, plane in whole.plates.items()
    }  # fmt: skip


#: Text on canvases that were drawn on last: edits of layers leave it as it is.
_LETTERINGS: Kept[tuple[object, ...], Lettering] = Kept(
    200, most=64 << 20, weigh=lambda line: line.nbytes
)


def _lettering(job: Faced, box: TextBox, sources: Sources, canvas: PieceFrame) -> Lettering:
    font, shape, printed = sources.font(box), job.piece.shape, _printed_in(job, box, sources)

    def made() -> Lettering:
        glyphs = tuple(
            tuple(canvas.pixels(lettered(shape, ring)) for ring in rings)
            for rings in set_box(box, font)
        )
        inks, colour, into = printed
        return Lettering(glyphs, inks, clip_rings(job, canvas), colour, into)

    return _LETTERINGS.get((box, font, shape, beyond(job), canvas, printed), made)


def _printed_in(
    job: Faced, box: TextBox, sources: Sources
) -> tuple[tuple[int, int, int, int], tuple[int, int, int], str]:
    """Process inks and colour of text, and the layer that alone prints it, if one does."""
    if box.ink is None:
        return _inks(box.colour, job, sources.profile(job)), rgb(box.colour), ""
    process = [ink.name for ink in job.printer.inks_of(LayerKind.COLOUR)]
    if box.ink in process:
        ink = next(ink for ink in job.printer.inks if ink.name == box.ink)
        cyan, magenta, yellow, black = (255 * (name == box.ink) for name in process)
        return (cyan, magenta, yellow, black), rgb(ink.shown), ""
    layer = layer_for_ink(job, box.ink)
    return (0, 0, 0, 0), (0, 0, 0), layer.name if layer else NO_LAYER


def _inks(colour: str, job: Faced, profile: bytes) -> tuple[int, int, int, int]:
    """An sRGB colour as the job's conversion gives it; pure black is black ink alone."""
    if rgb(colour) == (0, 0, 0):
        return 0, 0, 0, 255
    seen = np.array([[rgb(colour)]], np.uint8)
    cyan, magenta, yellow, black = job_converter(job, EMPTY, profile)(seen)[0, 0].tolist()
    return cyan, magenta, yellow, black


def job_converter(job: Faced, artwork: Artwork, profile: bytes) -> Callable[[Pixels], Pixels]:
    """The conversion that a job states, for an artwork.

    Parameters
    ----------
    job : intents, mixture and black point
    artwork : whose colours are converted
    profile : the printer's CMYK profile, ICC bytes

    Returns
    -------
    From uint8 (h, w, n) to coverage uint8 (h, w, 4).
    """
    how = job.conversion

    def by(intent: Intent) -> Converter:
        return converter_for(artwork, profile, intent=intent, black_point=how.black_point,
                             numbers=how.numbers)  # fmt: skip

    if how.flat == 0 or how.flat_intent is how.intent:
        return by(how.intent)
    if how.flat == 100:
        return by(how.flat_intent)
    return Blend(by(how.intent), by(how.flat_intent), how.flat / 100.0)


def channel_infos(found: tuple[Channel, ...]) -> tuple[ChannelInfo, ...]:
    """What writers are told of channels.

    Parameters
    ----------
    found : of one run, in order
    """
    process = {
        name: at for at, name in enumerate(
            dict.fromkeys(c.ink.name for c in found if c.ink.kind is LayerKind.COLOUR)
        )
    }  # fmt: skip
    return tuple(
        ChannelInfo(
            c.name, c.ink.shown, c.ink.kind.value,
            # An ink that prints another layer is no part of a picture in four colours.
            process[c.ink.name] if c.layer.kind is LayerKind.COLOUR else -1, c.layer.name,
        )
        for c in found
    )  # fmt: skip
