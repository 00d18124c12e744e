"""Plates as PDF/X-4: images in the colour spaces of their inks, a group for each layer."""

from __future__ import annotations

import tempfile
import zlib
from collections.abc import Callable, Sequence
from contextlib import ExitStack
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import IO, Any

import numpy as np
import numpy.typing as npt
import pikepdf
from pikepdf import Array, Dictionary, Name, String

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.files.pdfmarks import CUTTING, CutMarks, marks_content, marks_space
from farbe.files.pdfx import identified
from farbe.files.predict import differences
from farbe.model.base import rgb
from farbe.render.raster import (
    ChannelInfo,
    Elsewhere,
    Raster,
    Report,
    ink_sums,
    rows_at_once,
    strips,
    unwatched,
)
from farbe.render.rearranged import channels_at

#: ISO 19593-1 groups for what is no colour of the picture.
_PROCESSING_STEPS = {"white": Name.White, "varnish": Name.Varnish}
#: Readers need not take pages longer than this many units (ISO 32000-1, annex C).
_MAX_UNITS = 14_400
#: Points a millimetre.
_POINTS = 72.0 / 25.4
#: Inks of a picture in four colours.
_FOUR = 4
#: How a stream begins (RFC 1950), the block that ends it (RFC 1951), and the prime of its check.
_HEAD, _LAST, _PRIME = b"\x78\x01", b"\x03\x00", 65_521
Sums = npt.NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class PdfPage:
    """One page.

    Attributes
    ----------
    raster : what is on it
    trim : of the finished piece, mm from the page's lower left corner: left, bottom, right, top;
        None is the whole page
    bleed : mm around it
    times : how many pages are just like it
    cut : closed lines and marks, mm from the same corner; None without
    """

    raster: Raster
    trim: tuple[float, float, float, float] | None = None
    bleed: float = 0.0
    times: int = 1
    cut: CutMarks | None = None


@dataclass(frozen=True)
class _Image:
    """Channels that are one image, and their places in the raster."""

    layer: str
    kind: str
    places: tuple[int, ...]


def write_pdf(
    raster: Raster,
    path: Path,
    *,
    profile: bytes = b"",
    title: str = "",
    pages: Sequence[PdfPage] = (),
    elsewhere: Callable[[int], Elsewhere | None] | None = None,
    report: Report = unwatched,
) -> Sums:
    """Write a raster as one page of overprinting plates, or pages that are given.

    A page is a whole number of pixels, so a reader at the same resolution gets the plates back
    as they are. A reader without overprint shows the colours, which lie on top.

    Parameters
    ----------
    raster : the bed; its channels are those of all pages
    path : the file
    profile : of the process inks, for the output intent
    title : of the document
    pages : in place of the whole bed
    elsewhere : for a page, by its number, what packs its rows in other processes
    report : told the share that is done, 0 to 1

    Returns
    -------
    int64 array, shape (channels,)
        The sum of coverage (0 to 255 a pixel) of each channel as written.

    Raises
    ------
    BadInput
        If the file cannot be written.
    Cancelled
        If ``report`` does; no file is left.
    """
    wanted = tuple(pages) or (PdfPage(raster),)
    sums = np.zeros(len(raster.channels), np.int64)
    with ExitStack() as stack:
        pdf = stack.enter_context(pikepdf.new())
        groups = _Groups(pdf)
        for at, page in enumerate(wanted):

            def part(done: float, at: int = at) -> None:
                report((at + done) / len(wanted))

            images = _images(page.raster.channels)
            planes = [stack.enter_context(tempfile.TemporaryFile()) for _ in images]
            from_there = None if elsewhere is None else elsewhere(at)
            sums += page.times * _deflated(page.raster, planes, from_there, part)
            drawn = [_image(pdf, page.raster, image, plane)
                     for image, plane in zip(images, planes, strict=True)]  # fmt: skip
            for _ in range(page.times):
                _add_page(pdf, page, list(zip(images, drawn, strict=True)), groups)
        groups.finish()
        version = identified(pdf, title, profile)
        file = stack.enter_context(whole_file(path))
        pdf.save(
            file,
            force_version=version,
            deterministic_id=True,
            stream_decode_level=pikepdf.StreamDecodeLevel.none,
            compress_streams=True,
            object_stream_mode=pikepdf.ObjectStreamMode.disable,
        )
    return sums


def _images(channels: Sequence[ChannelInfo]) -> list[_Image]:
    """The images of a page in the order in which they are painted: the colours on top.

    The four inks of a picture are one image, or a reader without overprint would show the last
    of them alone.
    """
    layers = dict.fromkeys(channel.layer for channel in channels if channel.process >= 0)
    colours = []
    for layer in layers:
        places = [i for i, c in enumerate(channels) if c.layer == layer and c.process >= 0]
        places.sort(key=lambda i: channels[i].process)
        if [channels[i].process for i in places] == list(range(_FOUR)):
            colours.append(_Image(layer, "colour", tuple(places)))
    taken = {place for image in colours for place in image.places}
    others = [
        _Image(channel.layer or channel.name, channel.kind, (place,))
        for place, channel in enumerate(channels)
        if place not in taken
    ]
    return [*others, *colours[::-1]]


@dataclass(frozen=True)
class _Packed:
    """Rows of each image of a page as they stand in its stream, and the sum of each channel.

    Attributes
    ----------
    parts : blocks of deflate (RFC 1951) that end at a byte and need nothing of those before
    checks : Adler-32 (RFC 1950) of what is in each
    lengths : bytes that are in each
    inks : int64, a sum for each channel
    """

    parts: tuple[bytes, ...]
    checks: tuple[int, ...]
    lengths: tuple[int, ...]
    inks: Sums


def _packer(raster: Raster) -> Callable[[Pixels | None, range], _Packed]:
    """Packs rows of a page, whatever was packed before; those without ink once a height."""
    images, count, width = _images(raster.channels), len(raster.channels), raster.size[0]

    def packed(parts: Sequence[bytes], inks: Sums) -> _Packed:
        blocks = []
        for data in parts:
            # The quicker packer of TIFF strips does not always make the same bytes by parts.
            pack = zlib.compressobj(1, zlib.DEFLATED, -zlib.MAX_WBITS)
            blocks.append(pack.compress(data) + pack.flush(zlib.Z_FULL_FLUSH))
        checks = tuple(zlib.adler32(data) for data in parts)
        return _Packed(tuple(blocks), checks, tuple(map(len, parts)), inks)

    @lru_cache
    def blank(rows: int) -> _Packed:
        empty = [bytes(rows * width * len(image.places)) for image in images]
        return packed(empty, ink_sums(None, count))

    def pack(pixels: Pixels | None, rows: range) -> _Packed:
        if pixels is None:
            return blank(len(rows))
        parts = [differences(channels_at(pixels, image.places)).tobytes() for image in images]
        return packed(parts, ink_sums(pixels, count))

    return pack


def pdf_strips(raster: Raster) -> Callable[[Sequence[tuple[int, int]]], list[Any]]:
    """What packs rows of a page in another process.

    Parameters
    ----------
    raster : of the page

    Returns
    -------
    Takes first rows, and rows after the last, as the writer asks for them, and makes one for each
    of what only :func:`write_pdf` knows.
    """
    pack = _packer(raster)
    return lambda ranges: [pack(raster.rows(*rows), range(*rows)) for rows in ranges]


def _deflated(
    raster: Raster, planes: Sequence[IO[bytes]], elsewhere: Elsewhere | None, report: Report
) -> Sums:
    """One zlib stream an image, of parts that were packed by themselves; sums of the channels."""
    sums = np.zeros(len(raster.channels), np.int64)
    checks = [1] * len(planes)
    ranges = rows_at_once(raster, 0, raster.size[1])
    if elsewhere is None:
        made = strips(raster, _packer(raster), ranges, report)
    else:
        made = elsewhere(raster, ranges, report)
    for plane in planes:
        plane.write(_HEAD)
    for packed in made:
        for at, plane in enumerate(planes):
            plane.write(packed.parts[at])
            checks[at] = _joined(checks[at], packed.checks[at], packed.lengths[at])
        sums += packed.inks
    for plane, check in zip(planes, checks, strict=True):
        plane.write(_LAST + check.to_bytes(4, "big"))
    return sums


def _joined(first: int, second: int, length: int) -> int:
    """Adler-32 of two parts from those of each, the second so many bytes long (RFC 1950, 8.2)."""
    low = ((first & 0xFFFF) + (second & 0xFFFF) - 1) % _PRIME
    high = ((first >> 16) + (second >> 16) + length * ((first & 0xFFFF) - 1)) % _PRIME
    return high << 16 | low


class _Groups:
    """The optional content groups of a document, one for each layer."""

    def __init__(self, pdf: pikepdf.Pdf) -> None:
        self._pdf = pdf
        self._made: dict[str, pikepdf.Object] = {}

    def of(self, layer: str, kind: str) -> tuple[str, pikepdf.Object]:
        """A layer's group, and the name that pages know it by."""
        if layer not in self._made:
            group = Dictionary(Type=Name.OCG, Name=String(layer))
            if kind in _PROCESSING_STEPS:
                step = Dictionary(GTS_ProcStepsGroup=_PROCESSING_STEPS[kind])
            elif kind == CUTTING:
                step = Dictionary(
                    GTS_ProcStepsGroup=Name.Structural, GTS_ProcStepsType=Name.Cutting
                )
            else:
                step = None
            if step is not None:
                step.Type = Name.GTS_Metadata
                group.GTS_Metadata = step
            self._made[layer] = self._pdf.make_indirect(group)
        return f"/L{list(self._made).index(layer)}", self._made[layer]

    def finish(self) -> None:
        """Name them in the document."""
        order = Array(list(self._made.values()))
        default = Dictionary(Order=order, ON=order, Name=String("Layers"))
        self._pdf.Root.OCProperties = Dictionary(OCGs=order, D=default)


def _add_page(
    pdf: pikepdf.Pdf,
    page: PdfPage,
    images: Sequence[tuple[_Image, pikepdf.Object]],
    groups: _Groups,
) -> None:
    raster = page.raster
    across = raster.size[0] * 72.0 / raster.grid.dpi_x
    up = raster.size[1] * 72.0 / raster.grid.dpi_y
    # Very large pages state their unit instead of more units.
    unit = max(1, int(np.ceil(max(across, up) / _MAX_UNITS)))
    shown, layers, content, spaces = Dictionary(), Dictionary(), ["/Over gs"], Dictionary()
    for index, (image, drawn) in enumerate(images):
        name, group = groups.of(image.layer, image.kind)
        layers[name] = group
        shown[f"/P{index}"] = drawn
        size = f"{across / unit:.6f} 0 0 {up / unit:.6f} 0 0"
        content.append(f"/OC {name} BDC q {size} cm /P{index} Do Q EMC")
    if page.cut is not None:
        name, group = groups.of("Cutting", CUTTING)
        layers[name] = group
        spaces["/Cut"], spaces["/Black"] = marks_space(pdf, "Cutting"), marks_space(pdf, "Black")
        content += marks_content(page.cut, name, _POINTS / unit)
    over = Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)
    resources = Dictionary(XObject=shown, Properties=layers, ExtGState=Dictionary(Over=over))
    if page.cut is not None:
        resources.ColorSpace = spaces
    media = Array([0, 0, _real(across / unit), _real(up / unit)])
    made = Dictionary(
        Type=Name.Page, MediaBox=media, TrimBox=media, BleedBox=media, Resources=resources,
        Contents=pdf.make_stream("\n".join(content).encode("ascii")),
    )  # fmt: skip
    if page.trim is not None:
        made.TrimBox = _box(page.trim, 0.0, unit, media)
        made.BleedBox = _box(page.trim, page.bleed, unit, media)
    if unit > 1:
        made.UserUnit = unit
    pdf.pages.append(pikepdf.Page(pdf.make_indirect(made)))


def _box(trim: tuple[float, float, float, float], grown: float, unit: int, media: Array) -> Array:
    left, bottom, right, top = trim
    corners = (left - grown, bottom - grown, right + grown, top + grown)
    most = [float(value) for value in media] * 2
    return Array(
        [_real(min(max(value * _POINTS / unit, 0.0), most[2 + at % 2]))
         for at, value in enumerate(corners)]
    )  # fmt: skip


def _real(value: float) -> float:
    return round(value, 6)


def _image(pdf: pikepdf.Pdf, raster: Raster, image: _Image, plane: IO[bytes]) -> pikepdf.Object:
    plane.seek(0)
    channels = [raster.channels[place] for place in image.places]
    space = _four(pdf, channels) if len(channels) == _FOUR else _one(channels[0])
    return pikepdf.Stream(
        pdf,
        plane.read(),
        Type=Name.XObject,
        Subtype=Name.Image,
        Width=raster.size[0],
        Height=raster.size[1],
        BitsPerComponent=8,
        ColorSpace=pdf.make_indirect(space),
        Interpolate=False,
        Filter=Name.FlateDecode,
        DecodeParms=Dictionary(
            Predictor=2, Colors=len(channels), Columns=raster.size[0], BitsPerComponent=8
        ),
    )


def _four(pdf: pikepdf.Pdf, channels: Sequence[ChannelInfo]) -> Array:
    """The inks of a picture in four colours, by the receiver's names for them."""
    same = pikepdf.Stream(pdf, b"{}", FunctionType=4, Domain=[0, 1] * _FOUR, Range=[0, 1] * _FOUR)
    names = Array([Name("/" + channel.name) for channel in channels])
    return Array([Name.DeviceN, names, Name.DeviceCMYK, pdf.make_indirect(same)])


def _one(channel: ChannelInfo) -> Array:
    # How a screen without the ink shows it; a named ink prints on its own plate.
    shown = [1 - level / 255 for level in rgb(channel.shown)]
    if channel.kind == "white":
        shown = [0.12, 0.04, 0.0]
    tint = Dictionary(
        FunctionType=2,
        Domain=[0, 1],
        C0=[0, 0, 0, 0],
        C1=[*(round(v, 4) for v in shown), 0],
        N=1,
    )
    return Array([Name.Separation, Name("/" + channel.name), Name.DeviceCMYK, tint])
