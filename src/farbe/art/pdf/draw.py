"""Pages as planes: composite by pdfium, inks apart by Ghostscript."""

from __future__ import annotations

import subprocess
import tempfile
from pathlib import Path

import numpy as np
import pypdfium2
from PIL import Image

from farbe.art.drawing import SECONDS
from farbe.art.pdf.inks import PROCESS
from farbe.art.planes import Plane
from farbe.art.wanted import InkWork
from farbe.model.job import Intent

#: Ghostscript's numbers of rendering intents.
_INTENTS = {
    Intent.PERCEPTUAL: 0, Intent.RELATIVE: 1, Intent.SATURATION: 2, Intent.ABSOLUTE: 3,
}  # fmt: skip
_COMMON = ("gs", "-q", "-dSAFER", "-dBATCH", "-dNOPAUSE")
MOST_INKS = 60


def composite(path: Path, dpi: float) -> Plane:
    """A page as straight RGBA, uint8 (h, w, 4).

    Parameters
    ----------
    path : of a file with one page
    dpi : pixels to an inch
    """
    document = pypdfium2.PdfDocument(path)
    bitmap = document[0].render(
        scale=dpi / 72, fill_color=(0, 0, 0, 0), rev_byteorder=True, prefer_bgrx=False
    )
    pixels = bitmap.to_numpy()
    if pixels.shape[2] == 3:
        pixels = np.dstack([pixels, np.full(pixels.shape[:2], 255, np.uint8)])
    return np.ascontiguousarray(pixels)


def separated(
    path: Path, dpi: float, shape: tuple[int, int], work: InkWork, profile: Path
) -> tuple[Plane, dict[str, Plane]]:
    """Process planes, uint8 (h, w, 4), and spots by name, uint8 (h, w), 255 solid.

    Colours with a profile become the printer's inks as the job says; what is mixed with paper is
    less ink.

    Parameters
    ----------
    path : of a file with one page
    dpi : pixels to an inch
    shape : rows and columns
    work : intents and black point
    profile : where the printer's profile is

    Raises
    ------
    ValueError
        If the page cannot be separated.
    """
    planes: dict[str, Plane] = {}
    for intent, share in work.parts:
        part = _inks_apart(path, dpi, shape, _colours(work, profile, intent))
        if share == 1.0:
            planes = part
            continue
        for name, plane in part.items():
            mixed = plane * np.float32(share) + planes.get(name, np.zeros(shape, np.float32))
            planes[name] = mixed.astype(np.float32)
    done = {name: np.rint(plane).astype(np.uint8) for name, plane in planes.items()}
    process = np.dstack([done.pop(name) for name in PROCESS])
    return process, done


def _colours(work: InkWork, profile: Path, intent: Intent) -> list[str]:
    return [
        f"-sOutputICCProfile={profile}", f"-sDefaultCMYKProfile={profile}",
        f"--permit-file-read={profile}", f"-dRenderIntent={_INTENTS[intent]}",
        f"-dBlackPtComp={int(work.conversion.black_point)}", "-dKPreserve=1",
    ]  # fmt: skip


def _inks_apart(
    path: Path, dpi: float, shape: tuple[int, int], colours: list[str]
) -> dict[str, Plane]:
    found: dict[str, Plane] = {}
    with tempfile.TemporaryDirectory(dir=path.parent) as out:
        done = subprocess.run(
            [*_COMMON, "-sDEVICE=tiffsep", f"-r{dpi}", "-dTextAlphaBits=4", "-dGraphicsAlphaBits=4",
             f"-dMaxSpots={MOST_INKS}", *colours, f"-sOutputFile={out}/sep.tif", str(path)],
            capture_output=True, timeout=SECONDS - 15, check=False,
        )  # fmt: skip
        Image.MAX_IMAGE_PIXELS = None
        for plate in sorted(Path(out).glob("sep(*).tif")):
            with Image.open(plate) as picture:
                found[plate.name[4:-5]] = 255 - fitted(np.asarray(picture), shape, 255)
    if done.returncode or not all(name in found for name in PROCESS):
        raise ValueError("it cannot be separated")
    return found


def alternates(
    path: Path, count: int, work: InkWork, profile: Path
) -> list[tuple[float, float, float, float]]:
    """Percent of the process inks that swatches come to without plates of their own.

    Parameters
    ----------
    path : as :func:`farbe.art.pdf.inks.swatches` makes it
    count : of swatches
    work, profile : as of :func:`separated`
    """
    if not count:
        return []
    with tempfile.TemporaryDirectory(dir=path.parent) as out:
        target = Path(out) / "mixed.tif"
        subprocess.run(
            [*_COMMON, "-sDEVICE=tiff32nc", "-r72", *_colours(work, profile, work.parts[0][0]),
             f"-sOutputFile={target}", str(path)],
            capture_output=True, timeout=SECONDS - 15, check=True,
        )  # fmt: skip
        with Image.open(target) as picture:
            levels = np.asarray(picture)[5, 5 : 10 * count : 10] / 2.55
    return [(c, m, y, k) for c, m, y, k in np.round(levels, 1).tolist()]


def from_encapsulated(path: Path, folder: Path) -> Path:
    """An EPS file as a PDF with a page of its size.

    Parameters
    ----------
    path : of the EPS
    folder : where the PDF is put

    Raises
    ------
    ValueError
        If it cannot be read.
    """
    made = folder / "encapsulated.pdf"
    done = subprocess.run(
        [*_COMMON, "-sDEVICE=pdfwrite", "-dEPSCrop", "-dAutoRotatePages=/None",
         "-dColorConversionStrategy=/LeaveColorUnchanged", "-dPreserveSeparation=true",
         "-dAutoFilterColorImages=false", "-dColorImageFilter=/FlateEncode",
         "-dDownsampleColorImages=false", f"-sOutputFile={made}", str(path)],
        capture_output=True, timeout=SECONDS - 15, check=False,
    )  # fmt: skip
    if done.returncode or not made.exists():
        raise ValueError("it cannot be read")
    return made


def fitted(plane: Plane, shape: tuple[int, ...], empty: int) -> Plane:
    """A plane cut or filled up with ``empty`` to a size; readers round pages differently.

    Parameters
    ----------
    plane : uint8 (h, w) or (h, w, n)
    shape : wanted, as long as the plane's own
    empty : 0 to 255
    """
    result = np.full(shape, empty, np.uint8)
    high, wide = min(shape[0], plane.shape[0]), min(shape[1], plane.shape[1])
    # Pages begin at their lower left corner.
    result[shape[0] - high :, :wide] = plane[plane.shape[0] - high :, :wide]
    return result
