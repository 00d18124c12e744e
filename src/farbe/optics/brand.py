"""Brand colours: the process inks that come nearest to one on a job's own surface and white."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import product

import numpy as np
import numpy.typing as npt

from farbe.colour.lab import difference, lab_of_light
from farbe.distinct import distinct
from farbe.layout.faced import Faced
from farbe.model.edit import Recolour
from farbe.model.printer import LayerKind
from farbe.optics.inks import InkSet
from farbe.optics.look import seen
from farbe.optics.white import reader_who_sees
from farbe.plan.readers import own_layers
from farbe.render.inklimits import ink_limits

Floats = npt.NDArray[np.float64]
#: Percents of each ink that are tried first: cyan, magenta and yellow; black.
_FIRST, _BLACKS = (0, 20, 40, 60, 80, 100), (0, 10, 25, 50, 75, 100)
#: Percents by which the best are then changed, again and again.
_STEPS = (10.0, 5.0, 2.5, 1.2, 0.6)
#: Times that each step is taken.
ROUNDS = 4
#: So many of the best are followed.
_BEST = 24
#: CIEDE2000 that a percent more ink has to be worth.
_THRIFT = 0.0005


@dataclass(frozen=True)
class Match:
    """Process inks in percent, what they look like (L*a*b*), and how far off it is (ΔE00)."""

    inks: tuple[float, float, float, float]
    lab: tuple[float, float, float]
    far: float


def spot_looks(job: Faced, profile: bytes, inks: Floats) -> Floats:
    """What process inks look like where white lies solid behind them, as a job prints them.

    Parameters
    ----------
    job : its surface, reader, layers and condition count
    profile : its CMYK profile, ICC bytes
    inks : percents, (n, 4)

    Returns
    -------
    CIE L*a*b* under D50, float64 (n, 3).
    """
    printed = (LayerKind.COLOUR, LayerKind.WHITE, LayerKind.BLACKOUT)
    layers = tuple(layer for layer in own_layers(job) if layer.kind in printed)
    levels = np.rint(np.asarray(inks) * 2.55).astype(np.uint8)
    solid = np.full((1, len(levels)), 255, np.uint8)
    plates = []
    for layer in layers:
        if layer.kind is LayerKind.COLOUR:
            plates += [np.ascontiguousarray(levels[None, :, at]) for at in range(4)]
        else:
            plates.append(solid)
    if not any(layer.kind is LayerKind.COLOUR for layer in layers):
        return np.zeros((len(levels), 3))
    condition = job.condition
    # Inks are told as they are wanted, before any curve.
    plain = None if condition is None else condition.model_copy(update={"curves": ()})
    found = seen(
        layers, plates, reader=reader_who_sees(job), surface=job.piece.surface, profile=profile,
        inks=InkSet.of(job.printer, plain),
    )  # fmt: skip
    return lab_of_light(np.clip(np.moveaxis(found.day[:, 0, :], 0, -1), 0.0, 1.0))


def matched(job: Faced, profile: bytes, lab: tuple[float, float, float]) -> Match:
    """The process inks that come nearest to a colour, under the job's limits.

    A grid over all inks, then smaller and smaller steps about the best of it; of inks that look
    alike, less is taken.

    Parameters
    ----------
    job : as one of its faces has it
    profile : its CMYK profile, ICC bytes
    lab : CIE L*a*b* under D50
    """
    wanted, limits = np.array(lab), ink_limits(job)
    tried = np.array(
        [(c, m, y, k) for k in _BLACKS for c, m, y in product(_FIRST, repeat=3)], float
    )

    def judged(inks: Floats) -> tuple[Floats, Floats]:
        # Many are the same once they are levels.
        codes = np.rint(np.clip(inks, 0.0, 100.0) * 2.55).astype(np.uint8).view(np.uint32)
        levels = distinct(codes).view(np.uint8).reshape(1, -1, 4)
        allowed = limits(levels)[0].astype(np.float64) / 2.55
        far = difference(spot_looks(job, profile, allowed), wanted)
        order = np.argsort(far + _THRIFT * allowed.sum(axis=1), kind="stable")
        return allowed[order], far[order]

    chance = np.random.default_rng(0)
    best, far = judged(tried)
    for step in _STEPS:
        for _ in range(ROUNDS):
            straight = np.array(list(product((-step, 0.0, step), repeat=4)))
            # Valleys lie askew, where no straight step leads down.
            moves = np.vstack([straight, chance.normal(0.0, step, straight.shape)])
            near = (best[:_BEST, None, :] + moves[None]).reshape(-1, 4)
            best, far = judged(near)
    c, m, y, k = np.round(best[0], 1).tolist()
    light, a, b = np.round(spot_looks(job, profile, best[:1])[0], 2).tolist()
    return Match((c, m, y, k), (light, a, b), round(float(far[0]), 2))


def with_match(edit: Recolour, match: Match) -> Recolour:
    """A recolouring with the inks of a match.

    Parameters
    ----------
    edit : that gives a colour inks
    match : those inks
    """
    c, m, y, k = match.inks
    return edit.replace(cyan=c, magenta=m, yellow=y, black=k)
