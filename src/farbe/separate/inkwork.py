"""What is done to process inks once colours were converted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import cv2
import numpy as np

from farbe.art.artwork import Pixels
from farbe.model.edit import Recolour
from farbe.separate.choke import Plate
from farbe.separate.tones import nearness_table


@dataclass(frozen=True)
class InkLimits:
    """Largest coverage in percent: of all process inks together, and of each one.

    Over the sum, cyan, magenta and yellow give way alike; black is kept.
    """

    total: float = 400.0
    each: tuple[float, float, float, float] = (100.0, 100.0, 100.0, 100.0)

    def __call__(self, inks: Pixels) -> Pixels:
        """Coverage uint8 (h, w, 4) under the limits."""
        if any(share < 100.0 for share in self.each):
            most = np.array([round(share * 2.55) for share in self.each], np.uint8)
            inks = np.minimum(inks, most)
        if self.total >= 400.0:
            return inks
        room = self.total * 2.55
        sums = cv2.transform(inks.astype(np.float32), np.ones((1, 4), np.float32))
        over = sums > room
        if over.any():
            levels = inks.astype(np.float32)
            left = np.maximum(room - levels[..., 3], 0.0)
            colours = sums - levels[..., 3]
            share = np.where(over, left / np.maximum(colours, 1.0), 1.0)
            levels[..., :3] *= share[..., None]
            # Rounded down, so that the sum stays under the limit.
            inks = np.floor(levels).astype(np.uint8)
        return inks


@dataclass(frozen=True)
class ColourWork:
    """What is done to process inks by hand, after the profile and before the limits.

    Attributes
    ----------
    recoloured : colours that get inks of their own
    gains : each process ink up or down, in percent of itself
    printed : named plates that are printed in process inks, with their percents
    """

    recoloured: tuple[Recolour, ...] = ()
    gains: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    printed: tuple[tuple[str, tuple[float, float, float, float]], ...] = ()

    def given(self, inks: Pixels, seen: Callable[[], Pixels]) -> Pixels:
        """Inks uint8 (h, w, 4) after both; ``seen`` gives the colours as sRGB.

        Parameters
        ----------
        inks : uint8 (h, w, 4)
        seen : sRGB uint8 (h, w, 3), made when it is asked for

        Returns
        -------
        uint8 (h, w, n)
        """
        if any(self.gains):
            share = np.array([1.0 + gain / 100.0 for gain in self.gains], np.float32)
            inks = np.clip(np.rint(inks * share), 0, 255).astype(np.uint8)
        for one in self.recoloured:
            near = nearness_table(one.colours, one.tolerance, one.softness)(seen())
            share = near[..., None].astype(np.float32) / 255.0
            wanted = np.array([round(percent * 2.55) for percent in one.inks], np.float32)
            inks = np.rint(inks + share * (wanted - inks)).astype(np.uint8)
        return inks


#: What is done where nothing was asked for.
NO_LIMITS, AS_CONVERTED = InkLimits(), ColourWork()


def under_alpha(inks: Pixels, alpha: Plate) -> Pixels:
    """Coverage uint8 (rows, width, 4) times alpha uint8 (rows, width).

    Parameters
    ----------
    inks : uint8 (rows, width, 4)
    alpha : uint8 (rows, width), 255 opaque

    Returns
    -------
    uint8 (rows, width, 4)
    """
    if int(alpha.min(initial=255)) == 255:
        return inks
    under = np.asarray(cv2.copyTo(inks, alpha), np.uint8)
    # Few pixels lie on soft edges; 0 wraps round to 255.
    soft = np.flatnonzero(alpha - np.uint8(1) < 254)
    if len(soft):
        # The four inks of a pixel are picked and put back as one number.
        flat = under.view(np.uint32).reshape(-1)
        levels = flat[soft].view(np.uint8).reshape(1, -1)
        cover = np.repeat(alpha.reshape(-1)[soft], 4).reshape(1, -1)
        found = np.asarray(cv2.multiply(levels, cover, scale=1.0 / 255.0), np.uint8)
        flat[soft] = found.reshape(-1).view(np.uint32)
    return under


def across(inks: Pixels, left: int, width: int) -> Pixels:
    """Inks with columns that have none at both sides.

    Parameters
    ----------
    inks : uint8 (rows, some columns, 4)
    left : how many columns come before them
    width : of all columns

    Returns
    -------
    uint8 (rows, width, 4), free to be written to.
    """
    if inks.shape[1] == width:
        return np.require(inks, requirements="W")
    rows, right = np.empty((len(inks), width, 4), np.uint8), left + inks.shape[1]
    rows[:, :left], rows[:, left:right], rows[:, right:] = 0, inks, 0
    return rows


def turned_over(made: Pixels) -> Pixels:
    """Plates seen from the other side.

    Parameters
    ----------
    made : uint8 (rows, width, n)

    Returns
    -------
    uint8 (rows, width, n)
    """
    return np.asarray(cv2.flip(made, 1), np.uint8).reshape(made.shape)
