"""One artwork to plates, without a bed."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from farbe.art.artwork import Artwork, Pixels, Stated
from farbe.art.profiles import shipped_profile
from farbe.art.read import read_artwork
from farbe.art.wanted import InkWork, Wanted
from farbe.estimate.ink import ink_ml
from farbe.files.tiff import write_tiff
from farbe.layout.faced import Faced
from farbe.layout.figures import decimal
from farbe.model.artwork import ArtworkFile, PlateUse
from farbe.model.base import BadInput
from farbe.model.face import Face, SamePrint
from farbe.model.jig import Board, Jig
from farbe.model.job import Conversion, Intent, Job, Numbers
from farbe.model.layer import VARNISH_OVER, Layer
from farbe.model.meaning import Meaning
from farbe.model.piece import Piece, Reader, Rectangle, Surface
from farbe.model.printer import PROCESS, VARNISH, WHITE, Ink, LayerKind, Printer
from farbe.model.receiver import Compression, Receiver
from farbe.model.source import PlateNamed
from farbe.model.text import TextBox
from farbe.model.treatment import FINE_STROKE, Choke
from farbe.plan.order import channels, default_stack, needs_white
from farbe.plan.readers import mirror_words, order_words
from farbe.plan.recipes import recipe as recipe_named
from farbe.plan.spots import uses_of, with_own_plates
from farbe.plan.words import choice, surface_of
from farbe.render.piece import channel_infos
from farbe.render.piecetile import job_tile
from farbe.render.raster import ChannelInfo, Report, around, unwatched
from farbe.render.sources import Sources
from farbe.render.tile import Tile
from farbe.said import say, shipped
from farbe.separate.colour import check_cmyk_profile
from farbe.separate.grid import Grid
from farbe.separate.ownplates import is_seen, settled

#: How a caution begins that is about a plate of which nobody knows what it is for.
UNTOLD = say("Caution: nothing tells")
#: How inks are shown of which only the name is known.
NAMED = "#8a8f94"
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
    conversion: Conversion
    compression: Compression
    plates: tuple[tuple[str, Meaning], ...] = ()

    @classmethod
    def parsed(
        cls,
        *,
        recipe: str | None = None,
        width: float | None = None,
        dpi: str | None = None,
        choke: float | None = None,
        least: float | None = None,
        surface: str | None = None,
        reader: str | None = None,
        varnish: bool = False,
        profile: Path | None = None,
        intent: str = "relative",
        numbers: str = "convert",
        compression: str = "lzw",
        plates: Sequence[str] = (),
    ) -> PlatesWanted:
        """From words as typed; what is stated goes before what the recipe says.

        Parameters
        ----------
        recipe : name of a shipped one, or a recipe file
        width : printed, in mm, over 0; the artwork's own if not given
        dpi : one figure, or two with an x between
        choke : of white, mm, 0 to 50
        least : width that chokes of white leave strokes, mm, 0 to 50; 0 spares none
        surface : ``clear`` or ``#rrggbb``
        reader : ``face``, ``through`` or ``transfer``
        varnish : whether varnish is laid over the artwork
        profile : of the printer, CMYK; the test press's if not given
        intent : of rendering: perceptual, relative, saturation or absolute
        numbers : of CMYK artwork with a profile: convert or keep
        compression : of TIFF files: none, lzw, deflate or zstd
        plates : what plates of the file are for, as ``NAME=MEANING``

        Raises
        ------
        BadInput
            For a word that cannot be taken.
        """
        base = recipe_named(recipe) if recipe else None
        if reader is not None:
            who = choice(Reader, reader, shipped("reader"))
        else:
            who = base.reader if base else Reader.FACE
        stack = base.stack if base and who is base.reader else default_stack(who)
        if varnish and not any(layer.kind is LayerKind.VARNISH for layer in stack):
            stack = (*stack, VARNISH_OVER)
        if choke is not None:
            if not 0 <= choke <= 50:
                raise BadInput(
                    say("A choke of {choke} mm cannot be; give 0 to 50.", choke=f"{choke:g}")
                )
            stack = _of_white(stack, lambda layer: _choked(layer, choke))
        if least is not None:
            if not 0 <= least <= 50:
                raise BadInput(
                    say(
                        "A choke cannot leave strokes at least {least} mm; give 0 to 50.",
                        least=f"{least:g}",
                    )
                )
            stack = _of_white(stack, lambda layer: layer.sparing(least))
        if width is not None and not 0 < width <= 20_000:
            raise BadInput(
                say(
                    "A width of {width} mm cannot be; give more than 0 and up to 20000.",
                    width=f"{width:g}",
                )
            )
        return cls(
            stack=stack,
            reader=who,
            surface=surface_of(surface) if surface else (base.surface if base else None),
            width=width,
            dpi=_dpi(dpi) if dpi else None,
            profile=_profile(profile) if profile else shipped_profile(),
            conversion=Conversion(
                intent=(how := choice(Intent, intent, shipped("intent"))), flat_intent=how,
                numbers=choice(Numbers, numbers, shipped("numbers")),
            ),
            compression=choice(Compression, compression, shipped("compression")),
            plates=tuple(_meaning(word) for word in plates),
        )  # fmt: skip


#: Words for what a plate is for, as typed.
MEANINGS = {
    "white": Meaning.WHITE, "varnish": Meaning.VARNISH, "colour": Meaning.COLOUR,
    "ink": Meaning.INK, "cut": Meaning.CUT, "ignore": Meaning.IGNORE,
}  # fmt: skip


def _meaning(word: str) -> tuple[str, Meaning]:
    """A plate's name and meaning, from ``NAME=MEANING``."""
    name, sign, meant = word.rpartition("=")
    if not sign or not name.strip() or meant.strip().casefold() not in MEANINGS:
        raise BadInput(
            say(
                "{word} is not like NAME=MEANING, with one of {meanings}.",
                word=word,
                meanings=", ".join(MEANINGS),
            )
        )
    return name.strip(), MEANINGS[meant.strip().casefold()]


def uses_wanted(artwork: Artwork, wanted: PlatesWanted) -> tuple[PlateUse, ...]:
    """What an artwork's plates are for: as is stated, else as their names tell.

    Parameters
    ----------
    artwork : as it was read
    wanted : states meanings

    Raises
    ------
    BadInput
        If a plate is stated that the artwork has not.
    """
    stated = {name.casefold(): meaning for name, meaning in wanted.plates}
    uses = uses_of(artwork)
    absent = stated.keys() - {use.name.casefold() for use in uses}
    if absent:
        there = ", ".join(use.name for use in uses) or "none"
        raise BadInput(
            say(
                "The file has no plate {plate}; it has {there}.",
                plate=sorted(absent)[0],
                there=there,
            )
        )
    return tuple(
        use.replace(meaning=stated[use.name.casefold()], guessed=False)
        if use.name.casefold() in stated else use
        for use in uses
    )  # fmt: skip


def _choked(layer: Layer, distance: float) -> Layer:
    others = tuple(t for t in layer.treatments if not isinstance(t, Choke))
    return layer.replace(treatments=(Choke(by=distance, least=FINE_STROKE), *others))


def _of_white(stack: tuple[Layer, ...], change: Callable[[Layer], Layer]) -> tuple[Layer, ...]:
    return tuple(change(la) if la.kind is LayerKind.WHITE else la for la in stack)


def _dpi(text: str) -> tuple[float, float]:
    parts = re.fullmatch(r"(\d+(?:\.\d+)?)(?:[xX×](\d+(?:\.\d+)?))?", text.strip())
    if parts is None:
        raise BadInput(say("The resolution {text} is not like 600 or 600x1200.", text=text))
    x = float(parts[1])
    y = float(parts[2]) if parts[2] else x
    if not (10 <= x <= 5080 and 10 <= y <= 5080):
        raise BadInput(say("A resolution of {text} dpi cannot be; give 10 to 5080.", text=text))
    return x, y


def _profile(path: Path) -> bytes:
    try:
        data = path.read_bytes()
    except OSError:
        raise BadInput(
            say("The profile {path} cannot be read; choose the file again.", path=path.name)
        ) from None
    check_cmyk_profile(data, path.name)
    return data


@dataclass(frozen=True)
class OneArtwork(Sources):
    """The source of everything for a job of one artwork that was read before."""

    read: Artwork
    cmyk: bytes

    def artwork(self, file: ArtworkFile, job: Faced | None = None) -> Artwork:
        """The one artwork, whatever the file.

        Parameters
        ----------
        file : the artwork as the job knows it
        job : as one of its faces has it
        """
        return self.read

    def stated(self, file: ArtworkFile, job: Faced | None = None) -> Stated:
        """What is known of the one artwork besides its pixels.

        Parameters
        ----------
        file : the artwork as the job knows it
        job : as one of its faces has it
        """
        return self.read.stated

    def font(self, box: TextBox) -> bytes:
        """There is no text.

        Returns
        -------
        Nothing: it raises.

        Raises
        ------
        BadInput
            Always: there is no text.
        """
        raise BadInput(say("A single artwork has no text."))

    def profile(self, job: Faced) -> bytes:
        """The printer's CMYK profile.

        Parameters
        ----------
        job : as one of its faces has it
        """
        return self.cmyk

    def lit_profile(self, job: Faced) -> bytes | None:
        """None: what a single artwork looks like lit from behind is not asked.

        Parameters
        ----------
        job : as one of its faces has it
        """
        return None


@dataclass(frozen=True)
class PieceRaster:
    """A piece by itself, for a writer."""

    tile: Tile
    grid: Grid
    channels: tuple[ChannelInfo, ...]

    @property
    def size(self) -> tuple[int, int]:
        return self.tile.size

    @property
    def around(self) -> int:
        return around(self.tile)

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
            say(
                "{wide} × {high} mm would have {across} × {along} pixels; give a smaller "
                "width or resolution.",
                wide=f"{wide:.0f}",
                high=f"{high:.0f}",
                across=canvas[0],
                along=canvas[1],
            )
        )
    # The piece ends with the last pixel.
    wide, high = canvas[0] / grid.per_mm_x, canvas[1] / grid.per_mm_y
    uses = uses_wanted(artwork, wanted)
    file = ArtworkFile(digest="0" * 64, file_name="artwork", width=wide, height=high, plates=uses)
    named = tuple(use.name for use in uses if use.meaning is Meaning.INK)
    stack = (
        *with_own_plates(wanted.stack, uses),
        *(Layer(kind=LayerKind.NAMED, name=name, ink=name, source=PlateNamed(name=name))
          for name in named),
    )  # fmt: skip
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
            inks=(*_INKS, *(Ink(name=name, kind=LayerKind.NAMED, shown=NAMED) for name in named)),
        ),
        jig=Jig(name="one", board=Board(width=wide, height=high), first_x=0, first_y=0),
        receiver=Receiver(name="plates"),
        conversion=wanted.conversion,
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
    picture = settled(artwork, uses_wanted(artwork, wanted))
    tile = job_tile(job, OneArtwork(picture, wanted.profile), grid)
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

    Returns
    -------
    Sentences that are worth saying, one after the other.

    Raises
    ------
    BadInput
        If the picture cannot be read, the size cannot be, or the file cannot be written.
    """
    suffix = target.suffix.lower()
    if suffix not in (".tif", ".tiff", ".pdf"):
        raise BadInput(say("{target} should end in .tif or .pdf.", target=target.name))
    work = InkWork.of(wanted.profile, wanted.conversion)
    artwork = read_artwork(source, Wanted(work=work), by_rows=True)
    uses = uses_wanted(artwork, wanted)
    raster = single_raster(artwork, wanted)
    if suffix == ".pdf":
        # Needed seldom, and slow to load.
        from farbe.files.pdf import write_pdf

        sums = write_pdf(raster, target, report=report)
    else:
        sums = write_tiff(raster, target, compression=wanted.compression, report=report)
    if artwork.remark:
        yield say("Caution: {remark}", remark=artwork.remark)
    for sentence in artwork.lost:
        yield say("Caution: {sentence}", sentence=sentence)
    if uses:
        yield say("Plates of the file: ") + ", ".join(
            f"{use.name} ({use.meaning.words}{say(', guessed by its name') if use.guessed else ''})"
            for use in uses
        )
    for name, area in artwork.knocked.items():
        yield say(
            "Caution: {area} mm² of the plate {name} lie under other things and are left out.",
            area=f"{area:g}",
            name=name,
        )
    yield from untold(uses, artwork)
    if artwork.unfit_profile:
        yield say("Caution: the embedded colour profile does not fit the pixels and is not used.")
    (width, height), grid = raster.size, raster.grid
    yield (
        say(
            "{width} × {height} px, {wide} × {high} mm at {dpi_x} × {dpi_y} dpi",
            width=width,
            height=height,
            wide=decimal(width / grid.per_mm_x, 1),
            high=decimal(height / grid.per_mm_y, 1),
            dpi_x=f"{grid.dpi_x:g}",
            dpi_y=f"{grid.dpi_y:g}",
        )
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


def untold(uses: tuple[PlateUse, ...], artwork: Artwork) -> Iterator[str]:
    """A caution for each plate of which nobody knows what it is for.

    Parameters
    ----------
    uses, artwork : of a file
    """
    for use in uses:
        if use.meaning is Meaning.UNKNOWN:
            how = (
                say("is printed in its own colours")
                if is_seen(use, artwork)
                else say("is not printed")
            )
            yield (
                say(
                    "{untold} what the plate {use} is for; it {how}. Say it with --plate "
                    "'{use}=colour' or another of {meanings}.",
                    untold=UNTOLD,
                    use=use.name,
                    how=how,
                    meanings=", ".join(MEANINGS),
                )
            )


def _on_surface(surface: Surface, stack: tuple[Layer, ...]) -> Iterator[str]:
    """What the surface makes of the stack."""
    kinds = {layer.kind for layer in stack}
    if LayerKind.COLOUR not in kinds:
        return
    if needs_white(surface) and LayerKind.WHITE not in kinds:
        yield say("Caution: colour without white behind it all but vanishes on this surface.")
    if not needs_white(surface) and LayerKind.WHITE in kinds:
        yield say("Note: the surface is white already; the white plate may be left out.")
