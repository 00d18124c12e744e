"""What dragged things on the bed snap to, and what measuring takes exactly."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

from farbe.layout.bedframe import board_on_bed, box_on_bed, keep_out_polygon, to_bed
from farbe.layout.faced import Faced
from farbe.layout.laid import LaidPiece, places
from farbe.layout.pockets import footprint

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
        wide, high = footprint(jig, job.piece.shape)
        for pocket in places(job):
            lines_x += [pocket.x - wide / 2, pocket.x + wide / 2]
            lines_y += [pocket.y - high / 2, pocket.y + high / 2]
    # Where the move leads on the bed; its axes may run against the bed's.
    start, end = to_bed(jig.datum, printer, 0, 0), to_bed(jig.datum, printer, *by)
    step_x, step_y = end[0] - start[0], end[1] - start[1]
    return _snapped(job, by, near, corner, (
        (lines_x, (box[0] + step_x, box[2] + step_x, (box[0] + box[2]) / 2 + step_x)),
        (lines_y, (box[1] + step_y, box[3] + step_y, (box[1] + box[3]) / 2 + step_y)),
    ))  # fmt: skip


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
    wide, high = footprint(job.jig, job.piece.shape)
    found = places(job)
    xs, ys = [p.x for p in found] or [0.0], [p.y for p in found] or [0.0]
    return min(xs) - wide / 2, min(ys) - high / 2, max(xs) + wide / 2, max(ys) + high / 2


def nearest_point(
    job: Faced, pockets: Sequence[LaidPiece], x: float, y: float, near: float
) -> tuple[float, float]:
    """The middle, side or corner of a pocket, the board or the bed that lies near a place."""
    wide, high = footprint(job.jig, job.piece.shape)
    boxes = [
        (p.x - wide / 2, p.y - high / 2, p.x + wide / 2, p.y + high / 2)
        for p in pockets
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
