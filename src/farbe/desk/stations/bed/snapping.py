"""What dragged things on the bed snap to, and what measuring takes exactly."""

from __future__ import annotations

from collections.abc import Iterable, Sequence, Set
from dataclasses import dataclass

from farbe.layout.bedframe import board_on_bed, box_on_bed, keep_out_polygon, to_bed
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, places

#: Millimetres of the grid that first pockets and keep-outs snap to.
STEP = 5.0


@dataclass(frozen=True)
class Snapped:
    """A move in mm along the datum's axes, and the bed's lines that it has snapped to."""

    by: tuple[float, float]
    across: float | None
    along: float | None


def _best(moves: Iterable[tuple[float, float]], near: float) -> tuple[float, float] | None:
    """The smallest correction of a move, with the line it leads to."""
    found = min(moves, key=lambda one: abs(one[0]), default=None)
    return found if found is not None and abs(found[0]) <= near else None


def snap(job: Faced, keep_out: int | None, by: tuple[float, float], near: float) -> Snapped:
    """A move of the grid, or of a keep-out, snapped where something is ``near`` (mm).

    The grid snaps with its edges and its middle to the board's, and with its first corner to
    steps of 5 mm from the datum; a keep-out snaps to the edges of pockets and of the board, and
    to the same steps.
    """
    jig, printer = job.jig, job.printer
    left, bottom, right, top = board_on_bed(jig.board, jig.datum, printer)
    lines_x, lines_y = [left, right, (left + right) / 2], [bottom, top, (bottom + top) / 2]
    if keep_out is None:
        corner = (jig.first_x + by[0], jig.first_y + by[1])
        box = _grid_box(job)
    else:
        zone = keep_out_polygon(jig.keep_outs[keep_out]).bounds
        corner = (zone[0] + by[0], zone[1] + by[1])
        box = box_on_bed(jig.datum, printer, zone[0], zone[1], zone[2] - zone[0], zone[3] - zone[1])
        for pocket in places(job):
            wide, high = pocket.size
            lines_x += [pocket.x - wide / 2, pocket.x + wide / 2]
            lines_y += [pocket.y - high / 2, pocket.y + high / 2]
    # Where the move leads on the bed; its axes may run against the bed's.
    start, end = to_bed(jig.datum, printer, 0, 0), to_bed(jig.datum, printer, *by)
    step_x, step_y = end[0] - start[0], end[1] - start[1]
    return _snapped(job, by, near, corner, (
        (lines_x, (box[0] + step_x, box[2] + step_x, (box[0] + box[2]) / 2 + step_x)),
        (lines_y, (box[1] + step_y, box[3] + step_y, (box[1] + box[3]) / 2 + step_y)),
    ))  # fmt: skip


def snap_pockets(job: Faced, numbers: Set[int], by: tuple[float, float], near: float) -> Snapped:
    """A move of pockets, by their first one's middle, to the middles of others and of the board.

    Parameters
    ----------
    job : when the drag began
    numbers : of the pockets that are dragged
    by : mm along the datum's axes
    near : mm
    """
    jig, printer = job.jig, job.printer
    left, bottom, right, top = board_on_bed(jig.board, jig.datum, printer)
    rest = [pocket for pocket in places(job) if pocket.number not in numbers]
    own = next((pocket for pocket in places(job) if pocket.number in numbers), None)
    if own is None:
        return Snapped(by, None, None)
    start, unit = to_bed(jig.datum, printer, 0, 0), to_bed(jig.datum, printer, 1, 1)
    lines = (
        [(left + right) / 2, *(pocket.x for pocket in rest)],
        [(bottom + top) / 2, *(pocket.y for pocket in rest)],
    )
    moved, shown = list(by), list[float | None]((None, None))
    for axis, middle in enumerate((own.x, own.y)):
        sign = unit[axis] - start[axis]
        at = middle + sign * by[axis]
        found = _best(((line - at, line) for line in lines[axis]), near)
        if found is not None:
            moved[axis] += sign * found[0]
            shown[axis] = found[1]
    return Snapped((moved[0], moved[1]), shown[0], shown[1])


def _snapped(
    job: Faced,
    by: tuple[float, float],
    near: float,
    corner: tuple[float, float],
    axes_: Sequence[tuple[list[float], tuple[float, float, float]]],
) -> Snapped:
    moved, shown = list(by), [None, None]
    origin = to_bed(job.jig.datum, job.printer, 0, 0)
    unit = to_bed(job.jig.datum, job.printer, 1, 1)
    for axis, (lines, own) in enumerate(axes_):
        sign = unit[axis] - origin[axis]
        # Edges meet edges, middles meet middles.
        pairs = [(line - edge, line) for line in lines[:2] + lines[3:] for edge in own[:2]]
        pairs.append((lines[2] - own[2], lines[2]))
        found = _best(pairs, near)
        if found is not None:
            moved[axis] += sign * found[0]
            shown[axis] = found[1]  # type: ignore[call-overload]
            continue
        rest = round(corner[axis] / STEP) * STEP - corner[axis]
        if abs(rest) <= near / 2:
            moved[axis] += rest
    return Snapped((moved[0], moved[1]), shown[0], shown[1])


def _grid_box(job: Faced) -> tuple[float, float, float, float]:
    """The bed's box around all pockets."""
    found = places(job)
    if not found:
        return 0.0, 0.0, 0.0, 0.0
    return (
        min(p.x - p.size[0] / 2 for p in found),
        min(p.y - p.size[1] / 2 for p in found),
        max(p.x + p.size[0] / 2 for p in found),
        max(p.y + p.size[1] / 2 for p in found),
    )


def nearest_point(
    job: Faced, pockets: Sequence[LaidPiece], x: float, y: float, near: float
) -> tuple[float, float]:
    """The middle, side or corner of a pocket, the board or the bed that lies near a place."""
    boxes = [
        (p.x - wide / 2, p.y - high / 2, p.x + wide / 2, p.y + high / 2)
        for p in pockets
        for wide, high in (p.size,)
        if abs(p.x - x) <= wide / 2 + near and abs(p.y - y) <= high / 2 + near
    ]
    boxes.append(board_on_bed(job.jig.board, job.jig.datum, job.printer))
    boxes.append((0.0, 0.0, job.printer.bed_width, job.printer.bed_height))
    points = [
        (px, py)
        for left, bottom, right, top in boxes
        for px in (left, (left + right) / 2, right)
        for py in (bottom, (bottom + top) / 2, top)
    ]
    best = min(points, key=lambda p: (p[0] - x) ** 2 + (p[1] - y) ** 2)
    close = (best[0] - x) ** 2 + (best[1] - y) ** 2 <= near**2
    return best if close else (x, y)
