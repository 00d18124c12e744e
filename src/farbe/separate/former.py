"""What is made of a plane, of which others that were made before mostly differ little.

Of two pictures that follow each other a few pixels differ by a level or two: only what follows from
those is made anew.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import cv2
import numpy as np
import numpy.typing as npt

from farbe.kept import Kept
from farbe.separate.blocks import Block, blocks_near
from farbe.separate.choke import Plate

Plane = npt.NDArray[Any]
Made = TypeVar("Made")
Planes = tuple[Any, ...]
#: So many of the pictures before are looked through for some that differ little; the share of
#: pixels up to which are looked at for what does; and pixels from which on it is worth that.
LIKE, ANEW, MANY = 8, 0.7, 1 << 16


def nearest(
    kept: Kept[Any, Made], key: tuple[object, ...], plane: Plane, of: Callable[[Made], Plane]
) -> Made | None:
    """What was kept of a plane that differs least.

    Parameters
    ----------
    kept : by the planes' bytes, and by what else it follows from
    key : all else that it is to follow from
    plane : of which it is wanted
    of : the plane that something was made of

    Returns
    -------
    None if nothing was kept that follows from the same, or little is to be made.
    """
    if plane.size < MANY:
        return None
    like = [former for other, former in kept.latest() if other[1:] == key][:LIKE]
    if not like:
        return None
    return min(like, key=lambda one: cv2.countNonZero(differing(plane, of(one))))


def differing(plane: Plane, other: Plane) -> Plate:
    """Where two planes differ.

    Parameters
    ----------
    plane, other : (h, w), of one type

    Returns
    -------
    uint8 (h, w), 255 there.
    """
    return np.asarray(cv2.compare(plane, other, cv2.CMP_NE), np.uint8)


def made_anew(
    make: Callable[[Plane, Block], Planes],
    plane: Plane,
    former: tuple[Plane, Planes] | None,
    reach: tuple[int, int],
    about: int,
    wanted: Block | None = None,
) -> Planes:
    """What is made of a plane, as far as it can be of what was made of another.

    Parameters
    ----------
    make : planes of another, (rows, columns) each, of which a block is wanted
    plane : (h, w)
    former : another, and what was made of that; None if there is none
    reach : columns and rows beyond which what is made of a pixel does not see
    about : rows and columns that are made together
    wanted : the block that is; all, if not given

    Returns
    -------
    (h, w) each; not to be written to.
    """
    high, wide = plane.shape
    wanted = wanted or Block(0, high, 0, wide)
    if former is None:
        return make(plane, wanted)
    other, others = former
    blocks = list(blocks_near(differing(plane, other), wanted, about, reach))
    looked = [block.around(reach, plane.shape) for block in blocks]
    if sum(around.size for around in looked) > ANEW * plane.size:
        return make(plane, wanted)
    made = tuple(one.copy() for one in others) if blocks else others
    for block, around in zip(blocks, looked, strict=True):
        own = block.within(around)
        for whole, some in zip(made, make(plane[around.place], own), strict=True):
            whole[block.place] = some[own.place]
    return made
