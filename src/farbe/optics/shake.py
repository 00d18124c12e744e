"""Shake: random misregister drawn many times, and what choke and bleed forgive."""

from __future__ import annotations

from dataclasses import dataclass

import cv2
import numpy as np
import numpy.typing as npt

from farbe.model.printer import Register
from farbe.separate.choke import Plate

EdgePoints = npt.NDArray[np.float64]
DRAWS = 8000
#: Directions into which an edge is parted, and ways in which each part is asked for its farthest.
PARTS, WAYS = 36, 8
#: What is stated is what 95 of 100 prints stay within: about two standard deviations.
STATED_SIGMAS = 1.96


@dataclass(frozen=True)
class Edge:
    """Places on an edge, mm from the piece's middle, and the directions out of it, (n, 2) each."""

    places: EdgePoints
    outward: EdgePoints


def edge_of(rings: list[EdgePoints]) -> Edge:
    """The ends of an outline's sides, each with the outward direction of its side.

    Along a side the move of a turned or stretched edge is largest at one of its ends.

    ``rings`` are closed lines in mm, y up; the area is what lies on their inner side (even-odd),
    outer lines anticlockwise and holes clockwise.

    Parameters
    ----------
    rings : float64 (n, 2) in mm each

    Returns
    -------
    Places along them, and which way is out.
    """
    places, outward = [], []
    for ring in rings:
        step = np.roll(ring, -1, axis=0) - ring
        length = np.hypot(*step.T)
        keep = length > 1e-9
        out = np.column_stack([step[:, 1], -step[:, 0]])[keep] / length[keep, None]
        places += [ring[keep], (ring + step)[keep]]
        outward += [out, out]
    return Edge(np.concatenate(places), np.concatenate(outward))


def telling_places(edge: Edge) -> npt.NDArray[np.bool_]:
    """The places of an edge that move farthest under some shift, turn and stretch.

    How far a place moves outwards is linear in its direction, its turning moment and its distance
    from the middle, so that only the outermost places of each direction matter.

    Parameters
    ----------
    edge : any number of places

    Returns
    -------
    Which they are, bool (n,); some hundred at the most.
    """
    (x, y), (out_x, out_y) = edge.places.T, edge.outward.T
    moment, away = x * out_y - y * out_x, x * out_x + y * out_y
    part = np.floor((np.arctan2(out_y, out_x) / (2 * np.pi) + 0.5) * PARTS).astype(int) % PARTS
    kept = np.zeros(len(x), bool)
    for angle in np.arange(WAYS) * (2 * np.pi / WAYS):
        far = moment * np.cos(angle) + away * np.sin(angle)
        most = np.full(PARTS, -np.inf)
        np.maximum.at(most, part, far)
        there = np.flatnonzero(far >= most[part])
        # One of those that lie alike.
        kept[there[np.unique(part[there], return_index=True)[1]]] = True
    return kept


def telling(edge: Edge) -> Edge:
    """The places of :func:`telling_places` alone.

    Parameters
    ----------
    edge : any number of places
    """
    kept = telling_places(edge)
    return Edge(edge.places[kept], edge.outward[kept])


def moves(register: Register, edge: Edge, seed: int = 1, draws: int = DRAWS) -> EdgePoints:
    """How far each place of an edge moves outwards in each draw, in mm, shape (draws, n).

    Shift, turn and scale are drawn from normal distributions around nothing, each on its own.

    Parameters
    ----------
    register : misregister in mm, degrees and percent
    edge : places along it in mm
    seed : of the random draws
    draws : how many are made

    Returns
    -------
    How far each place (column) moves outwards in each draw (row), float64 (draws, n), mm.
    """
    rng = np.random.default_rng(seed)
    sigma = np.array([register.x, register.y, np.radians(register.rotation),
                      register.scale / 100.0]) / STATED_SIGMAS  # fmt: skip
    drawn = rng.standard_normal((draws, 4)) * sigma
    (x, y), (across, up) = edge.places.T, edge.outward.T
    # How far a shift either way, a turn, and a scale of one move each place outwards.
    ways = np.stack([across, up, x * up - y * across, x * across + y * up])
    return np.asarray(drawn @ ways)


def moved_out(plate: Plate, colour: Plate, far: float, pixel: tuple[float, float]) -> Plate:
    """A plate moved by ``far`` mm out of a colour's edge; both uint8 (h, w) around the edge.

    ``pixel`` is the size of one in mm. Out is where the colour becomes less, on the whole.

    Parameters
    ----------
    plate : uint8 (h, w)
    colour : uint8 (h, w)
    far : mm
    pixel : its width and height in mm

    Returns
    -------
    uint8 (rows, width), 0 to 255
    """
    high, wide = colour.shape
    y, x = np.mgrid[0:high, 0:wide].astype(np.float64)
    weight = colour / max(1.0, float(colour.sum(dtype=np.int64)))
    # From the middle of what is inked to the middle of the picture.
    out = np.array([(wide - 1) / 2 - (x * weight).sum(), (high - 1) / 2 - (y * weight).sum()])
    out *= pixel
    length = float(np.hypot(*out))
    if length < 1e-9 or not far:
        return plate
    step = out / length * far / pixel
    matrix = np.array([[1.0, 0.0, step[0]], [0.0, 1.0, step[1]]])
    return np.asarray(
        cv2.warpAffine(
            plate, matrix, (wide, high), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
        ),
        dtype=np.uint8,
    )


def play_moves(play: float, edge: Edge, seed: int = 2, draws: int = DRAWS) -> EdgePoints:
    """The same for a piece that lies anywhere within ``play`` mm in its pocket.

    Parameters
    ----------
    play : mm that a piece may lie off
    edge : places along it in mm
    seed : of the random draws
    draws : how many are made

    Returns
    -------
    How far each place (column) moves outwards in each draw (row), float64 (draws, n), mm.
    """
    rng = np.random.default_rng(seed)
    angle, far = rng.uniform(0, 2 * np.pi, draws), play * np.sqrt(rng.uniform(0, 1, draws))
    shift = np.column_stack([far * np.cos(angle), far * np.sin(angle)])
    return np.asarray(shift @ edge.outward.T)


@dataclass(frozen=True)
class Shaken:
    """What the draws say.

    Attributes
    ----------
    typical, worst : mm that the worst place of the edge moves, in half of the draws and in all
    chance : share of draws in which the present allowance is not enough
    least : the allowance in mm that is not enough in no more than the wanted share
    """

    typical: float
    worst: float
    chance: float
    least: float


def shaken(found: EdgePoints, allowance: float, wanted: float) -> Shaken:
    """Judge moves (draws, n) against an allowance in mm and a wanted chance, 0 to 1.

    Parameters
    ----------
    found : how far each edge (column) moves in each draw (row), float64 (draws, n), mm
    allowance : mm that choke and bleed forgive
    wanted : share of prints that may show an edge, 0 to 1

    Returns
    -------
    Share of prints that show, and what would be enough in mm.
    """
    need = np.maximum(found.max(axis=1), 0.0)
    return Shaken(
        typical=float(np.median(need)),
        worst=float(need.max()),
        chance=float((need > allowance + 1e-9).mean()),
        least=float(np.quantile(need, 1.0 - wanted, method="higher")),
    )
