"""Pixels in another order, laid out anew: to read them through views takes far longer."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from farbe.art.artwork import Pixels

#: Bytes of a pixel that OpenCV turns.
_SIDES = {1, 2, 3, 4, 6, 8, 12, 16, 24, 32}
_ROTATED = {1: cv2.ROTATE_90_COUNTERCLOCKWISE, 3: cv2.ROTATE_90_CLOCKWISE}


def quarter_turned(pixels: Pixels, quarters: int) -> Pixels:
    """Pixels after quarter turns anticlockwise.

    Parameters
    ----------
    pixels : uint8 (h, w, n)
    quarters : 0 to 3

    Returns
    -------
    uint8 (h, w, n), or (w, h, n) of an odd number.
    """
    if quarters % 2 == 0:
        return reversed_pixels(pixels, lines=quarters == 2, columns=quarters == 2)
    count = pixels.shape[2]
    if count in _SIDES:
        turned = np.asarray(cv2.rotate(pixels, _ROTATED[quarters]), np.uint8)
        return turned.reshape(*turned.shape[:2], count)
    whole = np.ascontiguousarray(pixels).view(f"V{count}")[..., 0]
    turned = np.ascontiguousarray(np.rot90(whole, quarters))
    return turned.view(np.uint8).reshape(*turned.shape, count)


def reversed_pixels(pixels: Pixels, *, lines: bool, columns: bool) -> Pixels:
    """Pixels with their lines in reverse order, their columns, or both.

    Parameters
    ----------
    pixels : uint8 (h, w, n)
    lines, columns : what is reversed

    Returns
    -------
    uint8 (h, w, n)
    """
    if not lines and not columns:
        return pixels
    # OpenCV's codes: both, lines, columns.
    way = -1 if lines and columns else 0 if lines else 1
    return np.asarray(cv2.flip(pixels, way), np.uint8).reshape(pixels.shape)


def channels_at(pixels: Pixels, places: Sequence[int]) -> Pixels:
    """Channels of pixels.

    Parameters
    ----------
    pixels : uint8 (h, w, n)
    places : of the channels

    Returns
    -------
    uint8 (h, w, channels), of its own.
    """
    found = np.empty((*pixels.shape[:2], len(places)), np.uint8)
    pairs = [number for at, place in enumerate(places) for number in (place, at)]
    cv2.mixChannels([pixels], [found], pairs)
    return found
