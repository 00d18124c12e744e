"""Lines of drawings, SVG or DXF, in millimetres: what a helper with limits reads."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from xml.etree import ElementTree

import numpy as np
import numpy.typing as npt
import svgelements
from shapely import STRtree, points

from farbe.art.svgpaths import broken_off
from farbe.model.base import MOST, BadInput
from farbe.said import say

DrawnLine = npt.NDArray[np.float64]
MAX_BYTES = 20_000_000
#: Ends that are nearer than this, in mm, are joined.
JOINED = 0.05
#: Curves become straight parts that leave them by no more than this, in mm.
FLATNESS = 0.01
MM_PER_PX = 25.4 / 96.0
SUFFIXES = (".svg", ".dxf")
#: Entities of a DXF that are lines; text and dimensions are not cut.
KINDS = frozenset({"LWPOLYLINE", "POLYLINE", "CIRCLE", "ELLIPSE", "SPLINE", "LINE", "ARC"})
#: A place in a DXF, code 10 to 59 before it, that Python would take for a number.
_NO_FIGURE = re.compile(rb"(?im)^[ \t]*[1-5]\d[ \t]*\r?\n[ \t]*[-+]?(nan|inf(inity)?)[ \t]*\r?$")
#: What svgelements and ezdxf raise on malformed drawings.
DAMAGE = (
    OSError, ValueError, TypeError, KeyError, IndexError, AttributeError, SyntaxError,
    ArithmeticError, RecursionError,
)  # fmt: skip


@dataclass(frozen=True, eq=False)
class Drawn:
    """A line of a drawing.

    Attributes
    ----------
    line : corners in mm, float64 (n, 2), y up; a closed one ends where it begins
    layer : that it is drawn on; empty where there are none
    block : which insertion of a block it comes from; empty for none
    turn : degrees, anticlockwise, by which that block is turned
    """

    line: DrawnLine
    layer: str = ""
    block: str = ""
    turn: float = 0.0


def read_lines(path: Path) -> list[Drawn]:
    """All lines of a drawing, as they are drawn.

    Parameters
    ----------
    path : of an SVG or DXF, at real size

    Returns
    -------
    Lines of two corners and more.

    Raises
    ------
    BadInput
        If the file cannot be read.
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
        _refuse_immense(lines)
        return lines
    except BadInput as error:
        raise BadInput(f"{path.name} {error}") from error
    except DAMAGE as error:
        raise BadInput(say("{path} is damaged; export it again.", path=path.name)) from error


def _refuse_immense(lines: list[Drawn]) -> None:
    """A figure that was damaged, or a unit that is another, is told before anything is laid."""
    if not lines:
        return
    corners = np.concatenate([one.line for one in lines])
    if not np.isfinite(corners).all():
        raise BadInput(say("has a figure that is none; export it again."))
    wide, high = np.ptp(corners, axis=0) / 1000.0
    if max(wide, high) > MOST / 1000.0:
        raise BadInput(
            say(
                "is {wide} × {high} m large; export it in millimetres, with what is to be cut "
                "alone.",
                wide=f"{wide:.4g}",
                high=f"{high:.4g}",
            )
        )


def _svg_lines(data: bytes) -> list[Drawn]:
    if b"<!ENTITY" in data or (b"<!DOCTYPE" in data and b"[" in data.split(b"<svg")[0]):
        raise BadInput(say("defines entities, which no drawing needs; export it plainly."))
    if paths := broken_off(ElementTree.fromstring(data)):
        raise BadInput(say("has a path that breaks off: {path}; export it again.", path=paths[0]))
    drawing = svgelements.SVG.parse(io.BytesIO(data), ppi=96.0, reify=False)
    lines: list[Drawn] = []
    for element in drawing.elements():
        if isinstance(element, svgelements.Shape):
            # Points are moved, not segments: turned and sheared arcs would not stay what they are.
            plain = svgelements.Path(*element.segments(transformed=False))
            layer = str(element.values.get("group_id") or element.id or "")
            for part in plain.as_subpaths():
                line = _svg_line(svgelements.Path(part), element.transform)
                lines.append(Drawn(line, layer))
    return [one for one in lines if len(one.line) > 1]


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


def _dxf_lines(data: bytes) -> list[Drawn]:
    from ezdxf import recover
    from ezdxf.audit import AuditError
    from ezdxf.enums import InsertUnits
    from ezdxf.lldxf.const import DXFError
    from ezdxf.path import make_path
    from ezdxf.units import conversion_factor

    # Curves through such places would be followed for ever.
    if _NO_FIGURE.search(data):
        raise BadInput(say("has a figure that is none; export it again."))
    try:
        drawing, audit = recover.read(io.BytesIO(data))
    except DXFError as error:
        raise BadInput(say("is no DXF drawing; export it again.")) from error
    # The reader guesses what a damaged figure was; a jig that is cut by it would be scrap.
    if any(found.code == AuditError.INVALID_FLOATING_POINT_VALUE for found in audit.errors):
        raise BadInput(say("has a figure that is none; export it again."))
    unit = InsertUnits(drawing.units) if drawing.units else InsertUnits.Millimeters
    scale = conversion_factor(unit, InsertUnits.Millimeters)
    lines: list[Drawn] = []
    for entity, block, turn, layer in _entities(drawing.modelspace()):
        path = make_path(entity)
        corners = [(p.x * scale, p.y * scale) for p in path.flattening(FLATNESS / scale)]
        if len(corners) > 1:
            lines.append(Drawn(np.array(corners, dtype=np.float64), layer, block, turn))
    return lines


def _entities(space: Any) -> Iterator[tuple[Any, str, float, str]]:
    """Lines of a model space, those in blocks as well, with the block's place in it and turn."""
    from ezdxf.disassemble import recursive_decompose

    for number, entity in enumerate(space):
        if entity.dxftype() in KINDS:
            yield entity, "", 0.0, str(entity.dxf.get("layer", "0"))
        elif entity.dxftype() == "INSERT":
            for copy, insert in enumerate(entity.multi_insert() if entity.mcount > 1 else [entity]):
                turn = float(insert.dxf.get("rotation", 0.0))
                above = str(insert.dxf.get("layer", "0"))
                for part in recursive_decompose([insert]):
                    if part.dxftype() in KINDS:
                        # What a block draws on layer 0 is on the layer of the insertion.
                        own = str(part.dxf.get("layer", "0"))
                        yield part, f"{number}.{copy}", turn, above if own == "0" else own


def gap_of(line: DrawnLine) -> float:
    """How far a line's ends are apart, in mm.

    Parameters
    ----------
    line : corners in mm, float64 (n, 2)
    """
    return float(np.hypot(*(line[0] - line[-1])))


def chained(lines: list[Drawn], joined: float = JOINED) -> list[Drawn]:
    """Open lines that meet end to end, joined to longer ones; the nearest ends first.

    Only what is on one layer and of one block is joined.

    Parameters
    ----------
    lines : as they are drawn
    joined : mm that ends may be apart

    Returns
    -------
    Closed lines, and what could not be closed.
    """
    found: list[Drawn] = []
    groups: dict[tuple[str, str], list[Drawn]] = {}
    for one in lines:
        if gap_of(one.line) <= joined and len(one.line) > 2:
            found.append(one)
        else:
            groups.setdefault((one.layer, one.block), []).append(one)
    for group in groups.values():
        found += (
            Drawn(line, group[0].layer, group[0].block, group[0].turn)
            for line in _joined([one.line for one in group], joined)
        )
    return found


def _joined(lines: list[DrawnLine], joined: float) -> list[DrawnLine]:
    """Each end goes on with the nearest free one; every line has two, numbered 2 n and 2 n + 1."""
    ends = np.array([end for line in lines for end in (line[0], line[-1])])
    there = points(ends)
    pairs = STRtree(there).query(there, predicate="dwithin", distance=joined).T
    apart = np.hypot(*(ends[pairs[:, 0]] - ends[pairs[:, 1]]).T)
    partner: dict[int, int] = {}
    for one, other in pairs[np.argsort(apart, kind="stable")].tolist():
        if one not in partner and other not in partner and one // 2 != other // 2:
            partner[one], partner[other] = other, one
    made, used = list[DrawnLine](), set[int]()
    # Chains with a free end begin there; what is left are rings.
    starts = [end for end in range(len(ends)) if end not in partner] + list(range(len(ends)))
    for start in starts:
        if start // 2 in used:
            continue
        chain, end = list[DrawnLine](), start
        while end is not None and end // 2 not in used:
            used.add(end // 2)
            line = lines[end // 2] if end % 2 == 0 else lines[end // 2][::-1]
            chain.append(line if not chain else line[1:])
            end = partner.get(end ^ 1)  # type: ignore[assignment]
        made.append(np.vstack(chain))
    return made
