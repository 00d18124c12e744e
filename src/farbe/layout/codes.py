"""Codes that machines read, as outlines of their modules on the piece."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import numpy.typing as npt
from shapely.geometry import MultiPolygon, box
from shapely.geometry.polygon import orient
from shapely.ops import unary_union

from farbe.model.base import BadInput
from farbe.model.placing import Across, Along
from farbe.model.text import CodeKind, TextBox
from farbe.said import say

CodeRing = npt.NDArray[np.float64]

#: Modules that stay light left, right, below and above of a code, by its standard.
QUIET: dict[CodeKind, tuple[int, int, int, int]] = {
    CodeKind.QR: (4, 4, 4, 4),
    CodeKind.CODE_128: (10, 10, 0, 0),
    CodeKind.CODE_39: (10, 10, 0, 0),
    CodeKind.EAN_13: (11, 7, 0, 0),
    CodeKind.EAN_8: (7, 7, 0, 0),
    CodeKind.ITF: (10, 10, 0, 0),
}
_BARS = {
    CodeKind.CODE_128: "code128", CodeKind.CODE_39: "code39", CodeKind.EAN_13: "ean13",
    CodeKind.EAN_8: "ean8", CodeKind.ITF: "itf",
}  # fmt: skip
#: Figures that a code of a fixed length has, with and without the one that checks them.
_LENGTHS = {CodeKind.EAN_13: (12, 13), CodeKind.EAN_8: (7, 8)}


@lru_cache(maxsize=4096)
def modules(kind: CodeKind, text: str) -> npt.NDArray[np.bool_]:
    """Which modules of a code are dark.

    Parameters
    ----------
    kind : of code
    text : what it says

    Returns
    -------
    bool (rows, columns) without the quiet zone; bars have one row.

    Raises
    ------
    BadInput
        If such a code cannot say this.
    """
    # Needed seldom, and slow to load.
    import segno
    from barcode.errors import BarcodeError

    try:
        if kind is CodeKind.QR:
            return np.array(segno.make(text, error="m", micro=False).matrix, np.uint8) > 0
        return _bars(kind, text)
    except (BarcodeError, segno.DataOverflowError, ValueError, KeyError) as error:
        raise BadInput(
            say("“{text}” cannot be told by {kind}.", text=text, kind=kind.words)
        ) from error


def _bars(kind: CodeKind, text: str) -> npt.NDArray[np.bool_]:
    import barcode

    lengths = _LENGTHS.get(kind)
    if lengths is not None and (not text.isdecimal() or len(text) not in lengths):
        raise ValueError(text)
    if kind is CodeKind.ITF and (not text.isdecimal() or len(text) % 2):
        raise ValueError(text)
    options = {"add_checksum": False} if kind is CodeKind.CODE_39 else {}
    made = barcode.get(_BARS[kind], text, options=options)
    if lengths is not None and len(text) == lengths[1] and made.get_fullcode() != text:
        # The last figure does not check the others.
        raise ValueError(text)
    line = "".join(made.build())
    return np.array([[mark == "1" for mark in line]])


@dataclass(frozen=True)
class CodeSize:
    """How a code lies in its box: the side of a module, and its place with the quiet zone in mm."""

    module: float
    left: float
    bottom: float
    high: float


def code_size(text: TextBox) -> CodeSize:
    """As large as the box lets a code be; bars are as high as the box.

    Parameters
    ----------
    text : with a code

    Returns
    -------
    Places in mm around the box's middle, of the first module.

    Raises
    ------
    BadInput
        If it cannot be told by such a code.
    """
    kind = text.code or CodeKind.QR
    rows, columns = modules(kind, text.text).shape
    left, right, below, above = QUIET[kind]
    wide, high = columns + left + right, rows + below + above
    module = text.width / wide
    if kind is CodeKind.QR:
        module = min(module, text.height / high)
    tall = high * module if kind is CodeKind.QR else text.height
    side = {Across.LEFT: -1.0, Across.MIDDLE: 0.0, Across.RIGHT: 1.0}[text.across]
    rise = {Along.BOTTOM: -1.0, Along.MIDDLE: 0.0, Along.TOP: 1.0}[text.along]
    x = side * (text.width - wide * module) / 2 - wide * module / 2
    y = rise * (text.height - tall) / 2 - tall / 2
    return CodeSize(module, x + left * module, y + below * module, tall - (below + above) * module)


def set_code(text: TextBox) -> tuple[tuple[CodeRing, ...], ...]:
    """The outlines of a code's dark modules on the piece in mm, y up; light ones if it says so.

    Parameters
    ----------
    text : with a code

    Returns
    -------
    Rings of each connected part, float64 (n, 2); none if it cannot be told by such a code.
    """
    try:
        size = code_size(text)
        dark = modules(text.code or CodeKind.QR, text.text)
    except BadInput:
        return ()  # said by its check
    kind = text.code or CodeKind.QR
    step = size.high / dark.shape[0]
    if text.light:
        left, right, below, above = QUIET[kind]
        dark = ~np.pad(dark, ((above, below), (left, right)))
        size = CodeSize(
            size.module, size.left - left * size.module, size.bottom - below * size.module, 0.0
        )
    rows = dark.shape[0]
    parts = []
    for row, line in enumerate(dark):
        edges = np.flatnonzero(np.diff(np.concatenate(([0], line.astype(np.int8), [0]))))
        low = size.bottom + (rows - 1 - row) * step
        for start, stop in edges.reshape(-1, 2).tolist():
            parts.append(box(size.left + start * size.module, low,
                             size.left + stop * size.module, low + step))  # fmt: skip
    # In one, so that no seams are left between rows.
    whole = unary_union(parts)
    turn = np.radians(text.rotation)
    back = np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]])
    return tuple(
        tuple(
            np.asarray(ring.coords)[:-1] @ back + (text.x, text.y)
            for ring in (part.exterior, *part.interiors)
        )
        for part in map(orient, whole.geoms if isinstance(whole, MultiPolygon) else (whole,))
    )
