"""Lines to cut, and marks for the cutter, as vectors on a PDF page."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import numpy.typing as npt
import pikepdf
from pikepdf import Array, Dictionary, Name

#: What the group of the lines to cut is told by; no kind of layer has this name.
CUTTING = "cutting"
#: Width in mm of a line to cut; diameter of a cutter's mark, and how far it stands off.
LINE, MARK, OFF = 0.1, 5.0, 8.0
#: Handles of a quarter circle of Bézier curves, of its radius.
_ROUND = 0.5522847
#: How a screen shows the line: in a colour that no picture has so purely.
_SHOWN = {"Cutting": [0.0, 1.0, 0.0, 0.0], "Black": [0.0, 0.0, 0.0, 1.0]}
CutLine = npt.NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class CutMarks:
    """What is cut on a page.

    Attributes
    ----------
    lines : closed lines, float64 (n, 2), mm from the page's lower left corner
    marks : middles of the cutter's marks in mm
    """

    lines: Sequence[CutLine]
    marks: Sequence[tuple[float, float]] = ()


def corner_marks(
    lines: Sequence[CutLine], width: float, height: float
) -> tuple[tuple[float, float], ...]:
    """Marks around what is cut: at its corners, and one more beside the first that tells how the
    sheet lies.

    Parameters
    ----------
    lines : float64 (n, 2), mm
    width, height : of the page in mm, which they stay on

    Returns
    -------
    Middles in mm; none where nothing is cut.
    """
    if not lines:
        return ()
    corners = np.concatenate(list(lines))
    (left, bottom), (right, top) = corners.min(axis=0) - OFF, corners.max(axis=0) + OFF
    edge = MARK / 2 + 1.0
    left, right = max(edge, float(left)), min(width - edge, float(right))
    bottom, top = max(edge, float(bottom)), min(height - edge, float(top))
    beside = min(right, left + 2 * MARK)
    return ((left, bottom), (beside, bottom), (right, bottom), (right, top), (left, top))


def marks_space(pdf: pikepdf.Pdf, name: str) -> pikepdf.Object:
    """The colour space of a line to cut, or of black.

    Parameters
    ----------
    pdf : that gets it
    name : Cutting or Black
    """
    tint = Dictionary(
        FunctionType=2, Domain=[0, 1], C0=[0, 0, 0, 0], C1=_SHOWN[name], N=1
    )  # fmt: skip
    return pdf.make_indirect(Array([Name.Separation, Name("/" + name), Name.DeviceCMYK, tint]))


def marks_content(cut: CutMarks, group: str, scale: float) -> list[str]:
    """Operators of a page's content, overprinting.

    Parameters
    ----------
    cut : in mm
    group : the page's name for the group of lines to cut
    scale : page units a mm
    """
    found = [f"/OC {group} BDC q /Cut CS 1 SCN {LINE * scale:.4f} w"]
    for line in cut.lines:
        points = [f"{x * scale:.4f} {y * scale:.4f}" for x, y in line]
        found.append(f"{points[0]} m " + " ".join(f"{point} l" for point in points[1:]) + " h S")
    found.append("Q EMC")
    if cut.marks:
        found.append("q /Black cs 1 scn")
        found += [_disc(x * scale, y * scale, MARK / 2 * scale) for x, y in cut.marks]
        found.append("Q")
    return found


def _disc(x: float, y: float, r: float) -> str:
    k = r * _ROUND
    parts = [f"{x + r:.4f} {y:.4f} m"]
    for ax, ay, bx, by, cx, cy in (
        (r, k, k, r, 0, r), (-k, r, -r, k, -r, 0), (-r, -k, -k, -r, 0, -r), (k, -r, r, -k, r, 0),
    ):  # fmt: skip
        parts.append(
            f"{x + ax:.4f} {y + ay:.4f} {x + bx:.4f} {y + by:.4f} {x + cx:.4f} {y + cy:.4f} c"
        )
    return " ".join(parts) + " f"
