"""Round bodies: where ink must lie so that artwork is seen as it should on a cylinder or a cone.

Three planes are told apart, each in mm around its own middle: the artwork's (u along the rim, v
towards the far end), the body's surface (angle around the axis, way along the surface), and the
print's, which is what passes under the heads.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
import numpy.typing as npt
from shapely.geometry import Polygon

from farbe.layout.faced import Faced
from farbe.model.piece import RoundBody, Unrolled

#: Places in mm, float64 (..., 2).
Places = npt.NDArray[np.float64]

#: Straight parts of an arc of a developed cone.
PARTS = 256


def radius_at(body: RoundBody, along: npt.NDArray[np.float64]) -> npt.NDArray[np.float64]:
    """Radius in mm where the surface is ``along`` mm from the near end.

    Parameters
    ----------
    body : sizes in mm
    along : mm along the axis, (...)

    Returns
    -------
    float64
    """
    near, far = body.diameter / 2, body.far_diameter / 2
    return near + (far - near) * along / body.slant


def _developed(body: RoundBody, angle: Places, along: Places) -> Places:
    """The surface rolled out flat; a cone becomes a part of a ring about its apex.

    A cone's surface is bent, not stretched: its radius r at a place is seen from the apex at a
    distance r / sin α, and an angle θ about the axis as θ · sin α, where sin α is the change of
    the radius by the way along the surface.
    """
    slope = body.slope
    if slope == 0.0:
        return np.stack([angle * body.diameter / 2, along - body.slant / 2], axis=-1)
    far = radius_at(body, along) / abs(slope)
    turn = angle * abs(slope)
    sign = 1.0 if slope > 0 else -1.0
    return np.stack([far * np.sin(turn), sign * far * np.cos(turn)], axis=-1)


def _rolled_up(body: RoundBody, flat: Places) -> tuple[Places, Places]:
    """The inverse of :func:`_developed`: angle and way along the surface."""
    slope = body.slope
    if slope == 0.0:
        return flat[..., 0] / (body.diameter / 2), flat[..., 1] + body.slant / 2
    sign = 1.0 if slope > 0 else -1.0
    far = np.hypot(flat[..., 0], flat[..., 1])
    turn = np.arctan2(flat[..., 0], sign * flat[..., 1])
    return turn / abs(slope), (far * abs(slope) - body.diameter / 2) / slope


@lru_cache(maxsize=64)
def _middle(body: RoundBody) -> tuple[float, float]:
    """The middle of the box around the printed part of the developed surface."""
    left, bottom, right, top = Polygon(_edge(body)).bounds
    return (left + right) / 2, (bottom + top) / 2


def _edge(body: RoundBody) -> Places:
    """The edge of the printed part of the developed surface, before it is put into the middle."""
    half = body.wrap_angle / 2
    around = np.linspace(-half, half, PARTS)
    near = _developed(body, around, np.zeros(PARTS))
    far = _developed(body, around[::-1], np.full(PARTS, body.slant))
    return np.concatenate([near, far])


def print_outline(body: RoundBody) -> Polygon:
    """What may be printed on, in the print's plane, around (0, 0).

    Parameters
    ----------
    body : sizes in mm

    Returns
    -------
    A polygon in mm.
    """
    if body.unrolled is Unrolled.ROLLERS:
        x, y = body.width / 2, body.slant / 2
        return Polygon([(-x, -y), (x, -y), (x, y), (-x, y)])
    return Polygon(_edge(body) - np.array(_middle(body)))


def surface_of_print(body: RoundBody, places: Places) -> tuple[Places, Places]:
    """Angle, in radians from the middle of the print, and mm from the near end, of ink.

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    places : in mm, float64 (n, 2)
    """
    if body.unrolled is Unrolled.ROLLERS:
        # The machine turns the body by angles; what it takes for mm is right at the widest end.
        return places[..., 0] / (body.widest / 2), places[..., 1] + body.slant / 2
    return _rolled_up(body, places + np.array(_middle(body)))


def print_of_surface(body: RoundBody, angle: Places, along: Places) -> Places:
    """The inverse of :func:`surface_of_print`: radians and mm, (n,) each, to mm, (n, 2).

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    angle : radians from the middle of the print, float64 (n,)
    along : mm from the near end, float64 (n,)
    """
    if body.unrolled is Unrolled.ROLLERS:
        return np.stack([angle * body.widest / 2, along - body.slant / 2], axis=-1)
    return np.asarray(_developed(body, angle, along) - np.array(_middle(body)))


def artwork_of_print(body: RoundBody, places: Places) -> Places:
    """Places of the artwork that ink at places of the print shows; both mm, (n, 2).

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    places : in mm, float64 (n, 2)
    """
    angle, along = surface_of_print(body, places)
    if body.follows:
        return np.stack([angle * body.mean / 2, along - body.slant / 2], axis=-1)
    return np.asarray(_developed(body, angle, along) - np.array(_middle(body)))


def print_of_artwork(body: RoundBody, places: Places) -> Places:
    """The inverse of :func:`artwork_of_print`; both mm, (n, 2).

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    places : in mm, float64 (n, 2)
    """
    if body.follows:
        angle, along = places[..., 0] / (body.mean / 2), places[..., 1] + body.slant / 2
    else:
        angle, along = _rolled_up(body, places + np.array(_middle(body)))
    return print_of_surface(body, angle, along)


def developed_size(body: RoundBody) -> tuple[float, float]:
    """Width and height in mm of the box around the developed printed part.

    Parameters
    ----------
    body : sizes in mm
    """
    left, bottom, right, top = Polygon(_edge(body)).bounds
    return right - left, top - bottom


def artwork_room(body: RoundBody) -> tuple[float, float]:
    """Width and height in mm of the artwork's plane.

    Parameters
    ----------
    body : sizes in mm
    """
    return (body.wrap, body.slant) if body.follows else developed_size(body)


def on_rollers(job: Faced) -> bool:
    """Whether a job's pieces turn on rollers under the heads.

    Parameters
    ----------
    job : as one of its faces has it
    """
    shape = job.piece.shape
    return isinstance(shape, RoundBody) and shape.unrolled is Unrolled.ROLLERS


def is_warped(body: RoundBody) -> bool:
    """Whether artwork is bent at all: not on a straight body.

    Parameters
    ----------
    body : a round one, upright or tapered; sizes in mm
    """
    return body.slope != 0.0
