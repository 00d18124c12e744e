"""One artwork to plates, without a bed."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from farbe.art.artwork import Artwork, Pixels
from farbe.art.read import read_artwork
from farbe.estimate.estimate import ink_ml
from farbe.files.pdf import write_pdf
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput
from farbe.model.face import Face, SamePrint
from farbe.model.jig import Board, Jig
from farbe.model.job import Conversion, Intent, Job
from farbe.model.layer import VARNISH_OVER, Layer
from farbe.model.piece import Piece, Reader, Rectangle, Surface
from farbe.model.printer import PROCESS, VARNISH, WHITE, LayerKind, Printer
from farbe.model.receiver import Compression, Receiver
from farbe.model.text import TextBox
from farbe.model.treatment import FINE_STROKE, Choke
from farbe.plan.order import channels, default_stack, needs_white
from farbe.plan.readers import mirror_words, order_words
from farbe.plan.recipes import recipe as recipe_named
from farbe.plan.spots import with_own_plates
from farbe.plan.words import choice, surface_of
from farbe.render.piece import channel_infos
from farbe.render.piecetile import job_tile
from farbe.render.raster import ChannelInfo, Report, unwatched
from farbe.render.tile import Tile
from farbe.separate.colour import check_cmyk_profile, shipped_profile
from farbe.separate.grid import Grid

#: Pixels and millimetres along a side that are the most.
MAX_SIDE, MAX_MM = 400_000, 20_000.0
_INKS = (*PROCESS, WHITE, VARNISH)


@dataclass(frozen=True)
class PlatesWanted:
    """What is asked of a single separation, as values."""

    stack: tuple[Layer, ...]
    reader: Reader
    surface: Surface | None
    width: float | None
    dpi: tuple[float, float] | None
    profile: bytes
    intent: Intent
    compression: Compression

    @classmethod
    def parsed(
        cls,
        *,
        recipe: str | None = None,
        width: float | None = None,
        dpi: str | None = None,
        choke: float | None = None,
        surface: str | None = None,
        reader: str | None = None,
        varnish: bool = False,
        profile: Path | None = None,
        intent: str = "relative",
        compression: str = "lzw",
    ) -> PlatesWanted:
        """From words as typed; what is stated goes before what the recipe says.

        Raises
        ------
        BadInput
            For a word that cannot be taken.
        """
        base = recipe_named(recipe) if recipe else None
        if reader is not None:
            who = choice(Reader, reader, "reader")
        else:
            who = base.reader if base else Reader.FACE
        stack = base.stack if base and who is base.reader else default_stack(who)
        if varnish and not any(layer.kind is LayerKind.VARNISH for layer in stack):
            stack = (*stack, VARNISH_OVER)
        if choke is not None:
            if not 0 <= choke <= 50:
                raise BadInput(f"A choke of {choke:g} mm cannot be; give 0 to 50.")
            stack = tuple(_choked(layer, choke) for layer in stack)
        if width is not None and not 0 < width <= 20_000:
            raise BadInput(f"A width of {width:g} mm cannot be; give more than 0 and up to 20000.")
        return cls(
            stack=stack,
            reader=who,
            surface=surface_of(surface) if surface else (base.surface if base else None),
            width=width,
            dpi=_dpi(dpi) if dpi else None,
            profile=_profile(profile) if profile else shipped_profile(),
            intent=choice(Intent, intent, "intent"),
            compression=choice(Compression, compression, "compression"),
        )


def _choked(layer: Layer, distance: float) -> Layer:
    if layer.kind is not LayerKind.WHITE:
        return layer
    others = tuple(t for t in layer.treatments if not isinstance(t, Choke))
    return layer.replace(treatments=(Choke(by=distance, least=FINE_STROKE), *others))


def _dpi(text: str) -> tuple[float, float]:
    parts = re.fullmatch(r"(\d+(?:\.\d+)?)(?:[xX×](\d+(?:\.\d+)?))?", text.strip())
    if parts is None:
        raise BadInput(f"The resolution {text} is not like 600 or 600x1200.")
    x = float(parts[1])
    y = float(parts[2]) if parts[2] else x
    if not (10 <= x <= 5080 and 10 <= y <= 5080):
        raise BadInput(f"A resolution of {text} dpi cannot be; give 10 to 5080.")
    return x, y


def _profile(path: Path) -> bytes:
    try:
        data = path.read_bytes()
    except OSError:
        raise BadInput(f"The profile {path.name} cannot be read; choose the file again.") from None
    check_cmyk_profile(data, path.name)
    return data


@dataclass(frozen=True)
class OneArtwork:
    """The source of everything for a job of one artwork that was read before."""

    read: Artwork
    cmyk: bytes

    def artwork(self, file: ArtworkFile) -> Artwork:
        """The one artwork, whatever the file."""
        return self.read

    def font(self, box: TextBox) -> bytes:
        """There is no text.

        Raises
        ------
        BadInput
            Always: there is no text.
        """
        raise BadInput("A single artwork has no text.")

    def profile(self, job: Faced) -> bytes:
        """The printer's CMYK profile."""
        return self.cmyk


@dataclass(frozen=True)
class PieceRaster:
    """A piece by itself, for a writer."""

    tile: Tile
    grid: Grid
    channels: tuple[ChannelInfo, ...]

    @property
    def size(self) -> tuple[int, int]:
        return self.tile.size

    def rows(self, start: int, stop: int) -> Pixels | None:
        rows = self.tile.rows(start, stop)
        return rows if rows.max(initial=0) else None


def one_place(artwork: Artwork, wanted: PlatesWanted) -> tuple[Faced, Grid]:
    """A job whose one piece is an artwork, to its edges, and the grid that is asked for.

    Parameters
    ----------
    artwork : its pixels
    wanted : what is asked for

    Raises
    ------
    BadInput
        If that size in pixels is too large.
    """
    wide, high = artwork.size_mm()
    if wanted.width is not None:
        # The shape that the stated resolution gives stays.
        wide, high = wanted.width, wanted.width * high / wide
    stated = wanted.dpi or (artwork.width / wide * 25.4, artwork.height / high * 25.4)
    grid = Grid(*stated)
    canvas = grid.size(wide, high)
    if max(canvas) > MAX_SIDE or max(wide, high) > MAX_MM:
        raise BadInput(
            f"{wide:.0f} × {high:.0f} mm would have {canvas[0]} × {canvas[1]} pixels;"
            " give a smaller width or resolution."
        )
    # The piece ends with the last pixel.
    wide, high = canvas[0] / grid.per_mm_x, canvas[1] / grid.per_mm_y
    file = ArtworkFile(digest="0" * 64, file_name="artwork", width=wide, height=high)
    stack = with_own_plates(wanted.stack, tuple(artwork.plates))
    faces = [Face(reader=wanted.reader, stack=stack, artworks=(file,))]
    if any(layer.reader for layer in stack):
        beyond = Reader.FACE if wanted.reader is Reader.THROUGH else Reader.THROUGH
        faces.append(Face(reader=beyond, artworks=(file,)))
    job = Job(
        name="One artwork",
        piece=Piece(name="piece", shape=Rectangle(width=wide, height=high),
                    surface=wanted.surface or Surface()),
        faces=tuple(faces),
        comes_up=SamePrint() if len(faces) == 2 else None,
        printer=Printer(
            name="plates", bed_width=wide, bed_height=high, max_piece_height=100,
            dpi_x=min(max(10.0, grid.dpi_x), 5080.0), dpi_y=min(max(10.0, grid.dpi_y), 5080.0),
            inks=_INKS,
        ),
        jig=Jig(name="one", board=Board(width=wide, height=high), first_x=0, first_y=0),
        receiver=Receiver(name="plates"),
        conversion=Conversion(intent=wanted.intent, flat_intent=wanted.intent),
    )  # fmt: skip
    return Faced(job), grid


def single_raster(artwork: Artwork, wanted: PlatesWanted) -> PieceRaster:
    """The plates of an artwork at the size and resolution that are wanted.

    Parameters
    ----------
    artwork : its pixels
    wanted : what is asked for

    Raises
    ------
    BadInput
        If that size in pixels is too large.
    """
    job, grid = one_place(artwork, wanted)
    tile = job_tile(job, OneArtwork(artwork, wanted.profile), grid)
    return PieceRaster(tile, grid, channel_infos(channels(job)))


def separate_file(
    source: Path, target: Path, wanted: PlatesWanted, *, report: Report = unwatched
) -> Iterator[str]:
    """Separate a picture into a TIFF or PDF; yields what is worth saying.

    Parameters
    ----------
    source : the file that is read
    target : the file to be written
    wanted : what is asked for
    report : told the share that is done, 0 to 1

    Raises
    ------
    BadInput
        If the picture cannot be read, the size cannot be, or the file cannot be written.
    """
    suffix = target.suffix.lower()
    if suffix not in (".tif", ".tiff", ".pdf"):
        raise BadInput(f"{target.name} should end in .tif or .pdf.")
    artwork = read_artwork(source, by_rows=True)
    raster = single_raster(artwork, wanted)
    if suffix == ".pdf":
        sums = write_pdf(raster, target, report=report)
    else:
        sums = write_tiff(raster, target, compression=wanted.compression, report=report)
    if artwork.remark:
        yield f"Caution: {artwork.remark}"
    if artwork.plates:
        yield "Plates of the file: " + ", ".join(artwork.plates)
    if artwork.unfit_profile:
        yield "Caution: the embedded colour profile does not fit the pixels and is not used."
    (width, height), grid = raster.size, raster.grid
    yield (
        f"{width} × {height} px, {width / grid.per_mm_x:.1f} × {height / grid.per_mm_y:.1f} mm"
        f" at {grid.dpi_x:g} × {grid.dpi_y:g} dpi"
    )
    job, _ = one_place(artwork, wanted)
    yield ", ".join(
        f"{channel.name} {ink_ml(float(total), channel.ink.laydown, grid.dpi_x, grid.dpi_y):.3f} ml"
        for channel, total in zip(channels(job), sums, strict=True)
    )
    yield order_words(job)
    yield mirror_words(job)
    if wanted.surface is not None:
        yield from _on_surface(wanted.surface, wanted.stack)


def _on_surface(surface: Surface, stack: tuple[Layer, ...]) -> Iterator[str]:
    """What the surface makes of the stack."""
    kinds = {layer.kind for layer in stack}
    if LayerKind.COLOUR not in kinds:
        return
    if needs_white(surface) and LayerKind.WHITE not in kinds:
        yield "Caution: colour without white behind it all but vanishes on this surface."
    if not needs_white(surface) and LayerKind.WHITE in kinds:
        yield "Note: the surface is white already; the white plate may be left out."
