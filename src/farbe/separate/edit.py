"""Edits of an artwork's pixels, one after the other."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import CHANNELS, Artwork, Pixels, Space
from farbe.distinct import distinct
from farbe.model.artwork import ArtworkFile
from farbe.model.base import BadInput, rgb
from farbe.model.edit import Adjust, Clear, Crop, CurvePoints, Edit, Recolour
from farbe.said import say
from farbe.separate.tones import nearness_table, screen_for
from farbe.separate.unmix import unmixed

#: Weights of red, green and blue in luma (ITU-R BT.709), to which saturation pulls.
_LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)
_ROWS = 512
#: Levels by which an even edge may vary.
EVEN = 6


def edited(artwork: Artwork, file: ArtworkFile, profile: bytes) -> Artwork:
    """An artwork after all edits of its file that are switched on.

    Parameters
    ----------
    artwork : as it was read
    file : of a job, with its edits
    profile : the CMYK profile by which CMYK artwork without its own is looked at

    Raises
    ------
    BadInput
        If a crop leaves nothing.
    """
    for edit in file.edits:
        if edit.on:
            if artwork.looked_at is not None and not isinstance(edit, Crop | Recolour):
                raise BadInput(
                    say(
                        "{file_name} has {width} x {height} pixels, too many to be corrected here; "
                        "switch the correction off, or correct it before.",
                        file_name=file.file_name,
                        width=artwork.width,
                        height=artwork.height,
                    )
                )
            artwork = _one(artwork, edit, profile, (file.width, file.height))
    return artwork


def _one(artwork: Artwork, edit: Edit, profile: bytes, size: tuple[float, float]) -> Artwork:
    match edit:
        case Clear():
            return replace(artwork, pixels=_cleared(artwork, edit, profile))
        case Crop():
            return _cropped(artwork, edit, size)
        case CurvePoints(black=black, white=white):
            low, high = _levels(black), _levels(white)
            steps = np.arange(256.0)[:, None]
            table = (steps - low) * 255.0 / np.maximum(high - low, 1.0)
            return _through(artwork, table)
        case Adjust(brightness=brightness, contrast=contrast, saturation=saturation):
            slope = (100.0 + contrast) / 100.0 if contrast < 0 else 100.0 / (100.1 - contrast)
            curve = (np.arange(256.0) - 127.5) * slope + 127.5 + brightness * 1.275
            adjusted = _through(artwork, np.repeat(curve[:, None], 3, axis=1))
            return _saturated(adjusted, 1.0 + saturation / 100.0) if saturation else adjusted
        case Recolour():
            # Inks are given when colour becomes ink.
            return artwork


def _levels(colour: str) -> npt.NDArray[np.float64]:
    return np.array(rgb(colour), np.float64)


def _through(artwork: Artwork, table: npt.NDArray[np.float64]) -> Artwork:
    """Colours through a table (256, 3) of sRGB levels; inks through it turned over."""
    colours = CHANNELS[artwork.space]
    levels = np.clip(np.rint(table), 0, 255).astype(np.uint8)
    if artwork.space is Space.GREY:
        levels = np.rint(levels.mean(axis=1, keepdims=True)).astype(np.uint8)
    if artwork.space is Space.CMYK:
        turned = 255 - levels[::-1]
        levels = np.hstack([turned, np.rint(turned.mean(axis=1, keepdims=True)).astype(np.uint8)])
    pixels = artwork.pixels.copy()
    for i in range(colours):
        pixels[..., i] = levels[:, i][pixels[..., i]]
    return replace(artwork, pixels=pixels)


def _saturated(artwork: Artwork, by: float) -> Artwork:
    """Colours pulled towards their grey, or away from it."""
    if artwork.space is Space.GREY:
        return artwork
    pixels = artwork.pixels.copy()
    for start in range(0, artwork.height, _ROWS):
        part = pixels[start : start + _ROWS, :, :3].astype(np.float32)
        grey = (part @ _LUMA)[..., None]
        moved = np.clip(np.rint(grey + (part - grey) * by), 0, 255)
        pixels[start : start + _ROWS, :, :3] = moved.astype(np.uint8)
    return replace(artwork, pixels=pixels)


def _cropped(artwork: Artwork, crop: Crop, size: tuple[float, float]) -> Artwork:
    x, y = artwork.width / size[0], artwork.height / size[1]
    left, right = round(crop.left * x), round(crop.right * x)
    top, bottom = round(crop.top * y), round(crop.bottom * y)
    rows, columns = slice(top, artwork.height - bottom), slice(left, artwork.width - right)
    if artwork.height - bottom - top < 1 or artwork.width - right - left < 1:
        raise BadInput(say("The crop leaves nothing of the artwork; cut off less."))
    return replace(
        artwork,
        pixels=artwork.pixels[rows, columns],
        small=_part_of_small(artwork, rows, columns),
        plates={name: plane[rows, columns] for name, plane in artwork.plates.items()},
    )


def _part_of_small(artwork: Artwork, rows: slice, columns: slice) -> Pixels | None:
    if artwork.small is None:
        return None
    down = artwork.small.shape[0] / artwork.height
    across = artwork.small.shape[1] / artwork.width
    return artwork.small[
        round(rows.start * down) : max(round(rows.start * down) + 1, round(rows.stop * down)),
        round(columns.start * across) : max(
            round(columns.start * across) + 1, round(columns.stop * across)
        ),
    ]


def _cleared(artwork: Artwork, edit: Clear, profile: bytes) -> Pixels:
    """The pixels with less alpha where colours are to be cleared, alpha last."""
    colours = CHANNELS[artwork.space]
    height, width = artwork.pixels.shape[:2]
    near = np.empty((height, width), np.uint8)
    screen = screen_for(artwork.space, artwork.icc, profile)
    table = nearness_table(edit.colours, edit.tolerance, edit.softness)
    for start in range(0, height, _ROWS):
        part = artwork.pixels[start : start + _ROWS, :, :colours]
        near[start : start + _ROWS] = table(screen(part))
    if artwork.has_alpha:
        alpha = artwork.pixels[..., -1]
    else:
        alpha = np.full((height, width), 255, np.uint8)
    if edit.connected:
        near = np.where(_from_outside(near, alpha), near, 0).astype(np.uint8)
    drawn, cover = np.ascontiguousarray(artwork.pixels[..., :colours]), np.asarray(255 - near)
    if edit.softness > 0:
        drawn, cover = unmixed(drawn, near)
    left = cv2.multiply(np.ascontiguousarray(alpha), cover, scale=1.0 / 255.0)
    return np.dstack([drawn, np.asarray(left, np.uint8)])


def trim_of(artwork: Artwork, file: ArtworkFile) -> Crop | None:
    """The crop that leaves what is drawn, without empty or even edges.

    Parameters
    ----------
    artwork : after its edits
    file : whose size it has

    Returns
    -------
    None if there is nothing to trim, or nothing drawn.
    """
    if artwork.has_alpha:
        drawn = artwork.seen[..., -1] > 0
    else:
        corner = artwork.seen[0, 0].astype(np.int16)
        drawn = (np.abs(artwork.seen.astype(np.int16) - corner) > EVEN).any(axis=2)
    rows, columns = np.flatnonzero(drawn.any(axis=1)), np.flatnonzero(drawn.any(axis=0))
    if not len(rows):
        return None
    wide, high = file.cropped
    tall, across = drawn.shape
    x, y = wide / across, high / tall
    crop = Crop(
        left=float(columns[0] * x), right=float((across - 1 - columns[-1]) * x),
        top=float(rows[0] * y), bottom=float((tall - 1 - rows[-1]) * y),
    )  # fmt: skip
    return crop if max(crop.left, crop.right, crop.top, crop.bottom) > 0 else None


def _from_outside(near: Pixels, alpha: Pixels) -> npt.NDArray[np.bool_]:
    """Where colours to be cleared are connected to the edge or to what is empty."""
    open_ = ((near > 0) | (alpha == 0)).astype(np.uint8)
    _, labels = cv2.connectedComponents(open_, connectivity=4)
    border = (labels[0], labels[-1], labels[:, 0], labels[:, -1], labels[alpha == 0])
    reached = np.zeros(int(labels.max()) + 1, bool)
    for line in border:
        reached[distinct(line)] = True
    reached[0] = False
    return np.asarray(reached[labels])
