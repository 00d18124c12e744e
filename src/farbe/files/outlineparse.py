"""What a helper does with drawings for :mod:`farbe.files.outlinefile`."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt
import svgelements
from shapely.geometry import Polygon
from shapely.validation import explain_validity

from farbe.model.base import BadInput
from farbe.model.piece import Outline
from farbe.said import say

DrawnLine = npt.NDArray[np.float64]
MAX_BYTES = 20_000_000
#: Ends that are nearer than this, in mm, are joined.
JOINED = 0.05
#: Curves become straight parts that leave them by no more than this, in mm.
FLATNESS = 0.01
MM_PER_PX = 25.4 / 96.0
SUFFIXES = (".svg", ".dxf")
#: What svgelements and ezdxf raise on malformed drawings.
DAMAGE = (
    OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, SyntaxError,
    ArithmeticError, RecursionError,
)  # fmt: skip


def parse_outline(path: Path) -> Outline:
    """What :func:`farbe.files.outlinefile.read_outline` does, in this process, without limits.

    Parameters
    ----------
    path : of an SVG or DXF, at real size

    Raises
    ------
    BadInput
        If there is no closed outline in the file.
    """
    try:
        if path.stat().st_size > MAX_BYTES:
            raise BadInput(
                say(
                    "{path} is larger than {max_bytes} MB; simplify it.",
                    path=path.name,
                    max_bytes=MAX_BYTES // 1000000,
                )
            )
        data = path.read_bytes()
    except OSError:
        raise BadInput(
            say("{path} cannot be read; choose the file again.", path=path.name)
        ) from None
    suffix = path.suffix.lower()
    if suffix not in SUFFIXES:
        raise BadInput(
            say("{path} is neither SVG nor DXF; export the outline as one of them.", path=path.name)
        )
    try:
        lines = _svg_lines(data) if suffix == ".svg" else _dxf_lines(data)
    except BadInput as error:
        raise BadInput(f"{path.name} {error}") from error
    except DAMAGE as error:
        raise BadInput(say("{path} is damaged; export it again.", path=path.name)) from error
    return _outline(lines, path.name)


def answer_to(path: Path, _: Path) -> dict[str, Any]:
    """What a helper answers: the outline of a drawing.

    Parameters
    ----------
    path : the drawing

    Raises
    ------
    BadInput
        If it has no outline.
    """
    return {"outline": parse_outline(path).model_dump(mode="json")}


def _svg_lines(data: bytes) -> list[DrawnLine]:
    if b"<!ENTITY" in data or (b"<!DOCTYPE" in data and b"[" in data.split(b"<svg")[0]):
        raise BadInput(say("defines entities, which no drawing needs; export it plainly."))
    drawing = svgelements.SVG.parse(io.BytesIO(data), ppi=96.0, reify=False)
    lines: list[DrawnLine] = []
    for element in drawing.elements():
        if isinstance(element, svgelements.Shape):
            # Points are moved, not segments: turned and sheared arcs would not stay what they are.
            plain = svgelements.Path(*element.segments(transformed=False))
            for part in plain.as_subpaths():
                lines.append(_svg_line(svgelements.Path(part), element.transform))
    return [line for line in lines if len(line) > 2]


def _svg_line(path: Any, matrix: Any) -> DrawnLine:
    """Corners of one subpath in mm, y up; a closed one ends where it begins."""
    points: list[tuple[float, float]] = []
    linear = np.array([[matrix.a, matrix.c], [matrix.b, matrix.d]])
    enlarged = float(np.linalg.norm(linear, 2))
    for segment in path:
        if isinstance(segment, svgelements.Move):
            points.append((segment.end.x, segment.end.y))
        elif isinstance(segment, svgelements.Line | svgelements.Close):
            if segment.end is not None:
                points.append((segment.end.x, segment.end.y))
        else:
            length = float(segment.length(error=1e-2)) * enlarged * MM_PER_PX
            # A half circle of this length leaves the arc by less than the flatness.
            count = max(8, int(np.ceil(length / np.sqrt(FLATNESS * 4))))
            steps = (segment.point(t) for t in np.linspace(0, 1, min(count, 2000) + 1)[1:])
            points += [(p.x, p.y) for p in steps]
    places = np.array(points, dtype=np.float64).reshape(-1, 2) @ linear.T + (matrix.e, matrix.f)
    return np.asarray(places * (MM_PER_PX, -MM_PER_PX))


def _dxf_lines(data: bytes) -> list[DrawnLine]:
    from ezdxf import recover
    from ezdxf.enums import InsertUnits
    from ezdxf.lldxf.const import DXFError
    from ezdxf.path import make_path
    from ezdxf.units import conversion_factor

    try:
        drawing, _ = recover.read(io.BytesIO(data))
    except DXFError as error:
        raise BadInput(say("is no DXF drawing; export it again.")) from error
    unit = InsertUnits(drawing.units) if drawing.units else InsertUnits.Millimeters
    scale = conversion_factor(unit, InsertUnits.Millimeters)
    lines: list[DrawnLine] = []
    kinds = "LWPOLYLINE POLYLINE CIRCLE ELLIPSE SPLINE LINE ARC"
    for entity in drawing.modelspace().query(kinds):
        path = make_path(entity)
        corners = [(p.x * scale, p.y * scale) for p in path.flattening(FLATNESS / scale)]
        if len(corners) > 1:
            lines.append(np.array(corners, dtype=np.float64))
    return [line for line in _chained(lines) if len(line) > 2]


def _chained(lines: list[DrawnLine]) -> list[DrawnLine]:
    """Open lines that meet end to end, joined to longer ones."""
    closed = [line for line in lines if _gap(line) <= JOINED]
    rest = [line for line in lines if _gap(line) > JOINED]
    while rest:
        line = rest.pop()
        joined = True
        while joined and _gap(line) > JOINED:
            joined = False
            for index, other in enumerate(rest):
                for turned in (other, other[::-1]):
                    if np.hypot(*(line[-1] - turned[0])) <= JOINED:
                        line = np.vstack([line, turned[1:]])
                        joined = True
                        break
                if joined:
                    rest.pop(index)
                    break
        closed.append(line)
    return closed


def _gap(line: DrawnLine) -> float:
    return float(np.hypot(*(line[0] - line[-1])))


def _outline(lines: list[DrawnLine], name: str) -> Outline:
    if not lines:
        raise BadInput(
            say(
                "There is no closed line in {name}; draw the outline as one closed line.", name=name
            )
        )
    for line in lines:
        if _gap(line) > JOINED:
            raise BadInput(
                say(
                    "A line in {name} is not closed: its ends are {gap} mm apart; close it.",
                    name=name,
                    gap=f"{_gap(line):.2f}",
                )
            )
    shapes = sorted((Polygon(line) for line in lines), key=lambda shape: -shape.area)
    for shape in shapes:
        if not shape.is_valid:
            where = explain_validity(shape).split("[")[-1].rstrip("]").split()
            place = ", ".join(f"{float(v):.6g}" for v in where[:2])
            raise BadInput(
                say(
                    "A line in {name} crosses itself at {place} mm; mend it.",
                    name=name,
                    place=place,
                )
            )
    outer, *holes = shapes
    if outer.area < 0.01:
        raise BadInput(say("The outline in {name} has no size; draw it in millimetres.", name=name))
    if any(not outer.contains(hole) for hole in holes):
        raise BadInput(
            say("{name} has more than one outer line; keep one and its holes.", name=name)
        )
    left, bottom, right, top = outer.bounds
    middle = ((left + right) / 2, (bottom + top) / 2)
    rings = [np.asarray(shape.exterior.coords)[:-1] - middle for shape in (outer, *holes)]
    return Outline(
        rings=tuple(tuple((round(float(x), 4), round(float(y), 4)) for x, y in r) for r in rings)
    )
