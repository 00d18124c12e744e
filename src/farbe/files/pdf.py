"""Plates as PDF: one image for each channel in its Separation colour space."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from contextlib import ExitStack
from pathlib import Path
from typing import IO

import numpy as np
import numpy.typing as npt
import pikepdf
from isal import isal_zlib
from pikepdf import Array, Dictionary, Name, String

from farbe.art.artwork import Pixels
from farbe.files.atomic import whole_file
from farbe.model.base import rgb
from farbe.render.raster import ChannelInfo, Raster, Report, ink_sums, strips, unwatched

#: ISO 19593-1 groups for what is no colour of the picture.
_PROCESSING_STEPS = {"white": Name.White, "varnish": Name.Varnish}
#: Readers need not take pages longer than this many units (ISO 32000-1, annex C).
_MAX_UNITS = 14_400


def write_pdf(raster: Raster, path: Path, *, report: Report = unwatched) -> npt.NDArray[np.int64]:
    """Write a raster as one page of overprinting plates, each in a layer of its own.

    The page is a whole number of pixels, so a reader at the same resolution gets the plates
    back as they are.

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
    with ExitStack() as stack:
        planes = [stack.enter_context(tempfile.TemporaryFile()) for _ in raster.channels]
        sums = _deflate_planes(raster, planes, report)
        pdf = stack.enter_context(pikepdf.new())
        _page(pdf, raster, planes)
        file = stack.enter_context(whole_file(path))
        pdf.save(
            file,
            stream_decode_level=pikepdf.StreamDecodeLevel.none,
            compress_streams=True,
            object_stream_mode=pikepdf.ObjectStreamMode.disable,
        )
    return sums


def _deflate_planes(
    raster: Raster, planes: Sequence[IO[bytes]], report: Report
) -> npt.NDArray[np.int64]:
    """One zlib stream a channel, written while the strips pass."""
    count, width = len(planes), raster.size[0]
    packers = [isal_zlib.compressobj(level=1) for _ in planes]

    def split(pixels: Pixels | None, rows: int) -> tuple[list[bytes], npt.NDArray[np.int64]]:
        if pixels is None:
            return [bytes(rows * width)] * count, ink_sums(None, count)
        return [pixels[..., i].tobytes() for i in range(count)], ink_sums(pixels, count)

    def pack(channel: int, data: bytes) -> None:
        planes[channel].write(packers[channel].compress(data))

    sums = np.zeros(count, np.int64)
    with ThreadPoolExecutor(2) as pool:
        for parts, inks in strips(raster, split, report):
            list(pool.map(pack, range(count), parts))
            sums += inks
    for plane, packer in zip(planes, packers, strict=True):
        plane.write(packer.flush())
    return sums


def _page(pdf: pikepdf.Pdf, raster: Raster, planes: Sequence[IO[bytes]]) -> None:
    width, height = raster.size
    across = width * 72.0 / raster.grid.dpi_x
    up = height * 72.0 / raster.grid.dpi_y
    # Very large pages state their unit instead of more units.
    unit = max(1, int(np.ceil(max(across, up) / _MAX_UNITS)))
    box = Array([0, 0, _real(across / unit), _real(up / unit)])
    images, groups, content = Dictionary(), Dictionary(), ["/Over gs"]
    order = Array()
    for index, (channel, plane) in enumerate(zip(raster.channels, planes, strict=True)):
        group = pdf.make_indirect(_layer(channel))
        groups[f"/L{index}"] = group
        order.append(group)
        images[f"/P{index}"] = _image(pdf, raster, channel, plane)
        size = f"{across / unit:.6f} 0 0 {up / unit:.6f} 0 0"
        content.append(f"/OC /L{index} BDC q {size} cm /P{index} Do Q EMC")
    over = Dictionary(Type=Name.ExtGState, OP=True, op=True, OPM=1)
    page = pikepdf.Page(
        pdf.make_indirect(
            Dictionary(
                Type=Name.Page,
                MediaBox=box,
                TrimBox=box,
                Resources=Dictionary(
                    XObject=images, Properties=groups, ExtGState=Dictionary(Over=over)
                ),
                Contents=pdf.make_stream("\n".join(content).encode("ascii")),
            )
        )
    )
    if unit > 1:
        page.obj.UserUnit = unit
    pdf.pages.append(page)
    pdf.Root.OCProperties = Dictionary(OCGs=order, D=Dictionary(Order=order, ON=order))
    pdf.docinfo["/Creator"] = "Farbe"


def _real(value: float) -> float:
    return round(value, 6)


def _layer(channel: ChannelInfo) -> Dictionary:
    group = Dictionary(Type=Name.OCG, Name=String(channel.name))
    step = _PROCESSING_STEPS.get(channel.kind)
    if step is not None:
        group.GTS_Metadata = Dictionary(Type=Name.GTS_Metadata, GTS_ProcStepsGroup=step)
    return group


def _image(
    pdf: pikepdf.Pdf, raster: Raster, channel: ChannelInfo, plane: IO[bytes]
) -> pikepdf.Object:
    plane.seek(0)
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
    space = Array([Name.Separation, Name("/" + channel.name), Name.DeviceCMYK, tint])
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
    )
