"""What a printer's process inks can reach."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.colour.lab import difference, lab_of_light
from farbe.model.printer import LayerKind
from farbe.optics.films import Light
from farbe.optics.inks import InkSet
from farbe.optics.light import linear_table
from farbe.optics.onpaper import light_on_paper
from farbe.render.glimpse import Glimpse

#: Steps of each ink that are looked at.
STEPS = 9
#: CIEDE2000 from which on a colour is not what was asked for.
NOT_REACHED = 3.0
#: Alpha from which on artwork is solid.
SOLID = 250


@lru_cache(maxsize=8)
def hull(profile: bytes, total: float = 400.0) -> npt.NDArray[np.float64]:
    """The outline of all colours in the plane of a* and b*, relative to the paper.

    Parameters
    ----------
    profile : CMYK profile, ICC bytes
    total : most process ink in percent

    Returns
    -------
    float64 (n, 2): a* and b* of the corners, anticlockwise.
    """
    levels = np.linspace(0, 255, STEPS)
    grid = np.stack(np.meshgrid(*[levels] * 4, indexing="ij"), axis=-1).reshape(-1, 4)
    inks = np.rint(grid[grid.sum(axis=1) <= total * 2.55 + 1e-6]).astype(np.uint8)
    lab = lab_of_light(light_on_paper(inks[None], profile)[0])
    corners = cv2.convexHull(lab[:, 1:].astype(np.float32))
    return np.asarray(corners.reshape(-1, 2), np.float64)


@dataclass(frozen=True, eq=False)
class Reach:
    """How far what is printed stays from the colours of the artwork.

    Attributes
    ----------
    far : CIEDE2000 on the printer's white, float32 (h, w); 0 where no artwork is solid
    share : of the solid artwork that is farther than :data:`NOT_REACHED`, 0 to 1
    area : of that, mm²
    worst : the largest difference that more than a thousandth of the artwork has
    """

    far: Light
    share: float
    area: float
    worst: float

    def picture(self, artwork: Pixels) -> Pixels:
        """Where colours are out of reach: from yellow to red over pale grey artwork.

        Parameters
        ----------
        artwork : sRGB and alpha, uint8 (h, w, 4)

        Returns
        -------
        sRGB and alpha, uint8 (h, w, 4)
        """
        pale = 150 + cv2.cvtColor(artwork[..., :3], cv2.COLOR_RGB2GRAY).astype(np.float32) * 0.4
        how_far = np.clip((self.far - NOT_REACHED) / (3 * NOT_REACHED), 0, 1)[..., None]
        colour = np.array([240.0, 190.0, 30.0]) + how_far * np.array([-40.0, -165.0, -5.0])
        shown = np.where(self.far[..., None] > NOT_REACHED, colour, pale[..., None])
        return np.dstack([np.rint(shown).astype(np.uint8), artwork[..., 3]])


def reached(part: Glimpse) -> Reach:
    """How far the colours of a part's artwork are from what its process inks make of them.

    Both are taken relative to white, as relative intents do; surface and white ink are not in it.

    Parameters
    ----------
    part : of a piece, with its plates
    """
    size = part.artwork.shape[:2]
    layer = next(
        (la for la in part.layers if la.kind is LayerKind.COLOUR and part.job.is_own(la)), None
    )
    solid = part.artwork[..., 3] >= SOLID
    if layer is None or not solid.any():
        return Reach(np.zeros(size, np.float32), 0.0, 0.0, 0.0)
    inks = InkSet.of(part.job.printer, part.job.condition)
    plates = inks.wanted(LayerKind.COLOUR, None, part.plates_of(layer.name))
    sent, wanted = np.dstack(plates)[solid], part.artwork[solid][:, :3]
    pairs, at = np.unique(np.hstack([sent, wanted]), axis=0, return_inverse=True)
    made = lab_of_light(light_on_paper(np.ascontiguousarray(pairs[None, :, :4]), part.profile)[0])
    asked = lab_of_light(linear_table()[pairs[:, 4:]])
    far = np.zeros(size, np.float32)
    far[solid] = difference(made, asked)[at.ravel()]
    beyond = far > NOT_REACHED
    pixel = 1.0 / (part.grid.per_mm_x * part.grid.per_mm_y)
    return Reach(
        far, float(beyond.sum() / solid.sum()), float(beyond.sum()) * pixel,
        float(np.quantile(far[solid], 0.999)),
    )  # fmt: skip
