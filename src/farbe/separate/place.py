"""Artwork laid on the output grid, any rows of it at a time."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from functools import partial

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import CHANNELS, Artwork, Pixels, Space
from farbe.kept import Kept, once
from farbe.separate.blocks import Block
from farbe.separate.choke import Plate
from farbe.separate.outline import PixelRing, covered, covers_all
from farbe.separate.resample import resampled_rows
from farbe.separate.warp import Bend, bent_rows, warped

#: Rows resampled at once; fixed, so that a row is the same whoever asks for it.
BLOCK = 128
#: Blocks of an artwork that are kept.
BLOCKS = 6
#: Pixels up to which an artwork is kept as it was last drawn.
SMALL = 1 << 22
#: From colours, uint8 (h, w, n), and alpha behind them, to inks, uint8 (h, w, 4), one by one.
Convert = Callable[[Pixels], Pixels]
#: What was drawn so small last: the pixels that it was drawn from, its blocks, and its bytes, of
#: which an edit's pictures, edges and survey need several.
_SMALL: Kept[tuple[object, ...], tuple[Pixels, Kept[int, Pixels], int]] = Kept(
    64, most=96 << 20, weigh=lambda drawn: drawn[2]
)


@dataclass(frozen=True, eq=False)
class PlacedArtwork:
    """An artwork on a canvas of output pixels, clipped to an outline.

    Attributes
    ----------
    canvas : (width, height) in output pixels
    drawn : (width, height) of the artwork in output pixels
    offset : canvas pixel (x, y) of the artwork's first pixel
    clip : closed rings in pixels of the canvas, or None for no clipping
    matrix : for turned artwork, the map from canvas to artwork pixels of
        :func:`farbe.separate.warp.source_matrix`; ``drawn`` and ``offset`` then do not matter
    bent : for artwork on tapered bodies, a map of places of the canvas, float64 (..., 2), to
        places in pixels of the artwork; ``drawn`` and ``offset`` then do not matter
    blocks : of 128 rows each that are kept; as many as all threads look at
    """

    artwork: Artwork
    canvas: tuple[int, int]
    drawn: tuple[int, int]
    offset: tuple[int, int] = (0, 0)
    clip: tuple[PixelRing, ...] | None = None
    matrix: npt.NDArray[np.float64] | None = None
    bent: Bend | None = None
    blocks: int = BLOCKS

    @once
    def _made(self) -> Kept[int, Pixels]:
        """Neighbouring strips share blocks, so a few of them are kept."""
        return self._blocks(None) if self._is_small else Kept(self.blocks)

    @property
    def _extent(self) -> tuple[int, int]:
        """Width and height of all blocks."""
        return self.canvas if self._is_warped else self.drawn

    @property
    def _is_small(self) -> bool:
        """Whether all blocks are kept, as of a picture on the screen."""
        width, height = self._extent
        there = self.bent is None and self.artwork.stream is None
        return there and width * height <= SMALL

    def _blocks(self, convert: Convert | None) -> Kept[int, Pixels]:
        """All blocks of small artwork, or the inks of them.

        They are kept for the next picture in which the artwork lies alike: an edit of a choke need
        not wait for all of the artwork's pixels.
        """
        (width, height), pixels = self._extent, self.artwork.pixels
        how = None if self.matrix is None else self.matrix.tobytes()
        # The pixels are kept with what is made of them, so that no others can get their address.
        key = (pixels.ctypes.data, pixels.shape, pixels.strides, self.artwork.space,
               width, height, self._columns, how, convert)  # fmt: skip
        size = width * height * (pixels.shape[2] if convert is None else CHANNELS[Space.CMYK])
        return _SMALL.get(key, lambda: (pixels, Kept(height // BLOCK + 1), size))[1]

    @property
    def _is_warped(self) -> bool:
        return self.matrix is not None or self.bent is not None

    @property
    def _is_straight(self) -> bool:
        """Whether the artwork's pixels are printed as they are."""
        return not self._is_warped and self.drawn == (self.artwork.width, self.artwork.height)

    @property
    def _columns(self) -> tuple[int, int]:
        """Of artwork at another size the columns that are made: the first, and that after the last.

        Of a wall on many tiles not all of the wall for each; but all of what is no more than twice
        as wide as its piece, which is then made once wherever it lies.
        """
        (width, _), (wide, _), x = self.drawn, self.canvas, self.offset[0]
        if self._is_warped or self._is_straight or width <= 2 * wide:
            return 0, width
        left = min(max(0, -x), width)
        return left, max(left, min(width, wide - x))

    def lies(self, start: int) -> Block | None:
        """Where the artwork lies, counted from a row of the canvas; None if it is turned or bent.

        Parameters
        ----------
        start : the row

        Returns
        -------
        Rows and columns, also beyond the canvas.
        """
        (x, y), (width, height) = self.offset, self.drawn
        top = y - start
        return None if self._is_warped else Block(top, top + height, x, x + width)

    def colours(self, start: int, stop: int) -> Pixels:
        """Colour channels of canvas rows, uint8 (rows, width, n); nothing is 0 there.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (h, w, n)
        """
        channels = CHANNELS[self.artwork.space]
        return self._rows(start, stop, slice(0, channels))

    def alpha(self, start: int, stop: int) -> Plate:
        """Alpha of canvas rows, clipped, uint8 (rows, width). Rows outside are empty.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (rows, width), 0 to 255, only to be looked at
        """
        rows = self._plain_alpha(start, stop)
        if self.clip is None or covers_all(self.clip, self.canvas[0], start, stop):
            return rows
        mask = covered(self.clip, self.canvas[0], start, stop)
        return np.asarray(cv2.multiply(rows, mask, scale=1.0 / 255.0), dtype=np.uint8)

    def _plain_alpha(self, start: int, stop: int) -> Plate:
        if self.artwork.has_alpha or self._is_warped:
            return self._rows(start, stop, CHANNELS[self.artwork.space])
        rows = np.zeros((stop - start, self.canvas[0]), np.uint8)
        left, right, top, bottom = self._inside(start, stop)
        if left < right and top < bottom:
            rows[top - start : bottom - start, left:right] = 255
        return rows

    def _warped_block(self, index: int) -> Pixels:
        top, bottom = index * BLOCK, min((index + 1) * BLOCK, self.canvas[1])
        if self.bent is not None:
            return bent_rows(self.artwork, self.bent, self.canvas[0], top, bottom)
        if self.matrix is None:
            raise ValueError("the artwork is not turned")
        return warped(self.artwork, self.matrix, self.canvas[0], top, bottom)

    def _inside(self, start: int, stop: int) -> tuple[int, int, int, int]:
        """Canvas pixels left, right, top, bottom where rows of the artwork lie."""
        if self._is_warped:
            return 0, self.canvas[0], max(0, start), min(stop, self.canvas[1])
        x, y = self.offset
        return (
            max(0, x),
            min(self.canvas[0], x + self.drawn[0]),
            max(start, y, 0),
            min(stop, y + self.drawn[1], self.canvas[1]),
        )

    def pixels(self, start: int, stop: int) -> Pixels:
        """Colour channels of canvas rows, and alpha behind them where the artwork has any.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (h, w, n), only to be looked at; 0 where no artwork lies.
        """
        return self._rows(start, stop, None)

    def inks(self, convert: Convert, start: int, stop: int) -> Pixels:
        """What a conversion gives of canvas rows; of small artwork it is kept, wherever it lies.

        Parameters
        ----------
        convert : from what :meth:`pixels` gives; known again by what it is equal to
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (rows, width, 4), only to be looked at; anything where no artwork lies.
        """
        if self._is_straight or not self._is_small:
            return convert(self.pixels(start, stop))
        return self._rows(start, stop, None, convert)

    def _rows(
        self, start: int, stop: int, channels: slice | int | None, convert: Convert | None = None
    ) -> Pixels:
        """Channels of canvas rows, or inks that are made of them; 0 where no artwork lies.

        Colours are free to be written to; all, None, and alpha are only to be looked at.
        """
        left, right, top, bottom = self._inside(start, stop)
        wide: tuple[int, ...] = ()
        if convert is not None:
            wide = (CHANNELS[Space.CMYK],)
        elif not isinstance(channels, int):
            # What is turned or bent covers its edges in part, whatever it is made of.
            every = CHANNELS[self.artwork.space] + (self.artwork.has_alpha or self._is_warped)
            wide = (every if channels is None else channels.stop - channels.start,)
        shape = (stop - start, self.canvas[0], *wide)
        x, y = (0, 0) if self._is_warped else self.offset
        x += self._columns[0]
        drawn: Iterable[tuple[int, Pixels]] = ()
        if left < right and top < bottom:
            if self._is_straight and isinstance(channels, int):
                # Of artwork that is printed as it is, one channel is asked for: its alpha.
                drawn, channels = _in_turn(self.artwork.alphas(top - y, bottom - y), top - y), None
            else:
                drawn = self._drawn(top - y, bottom - y, convert)
        rows: Pixels | None = None
        for row, part in drawn:
            own = part[:, left - x : right - x]
            if (*own.shape[:2], *wide) == shape:
                # Rows that are there in one part need not be put together.
                return own if channels is None else _picked(own, channels)
            if rows is None:
                rows = np.zeros(shape, np.uint8)
            at = row + y - start
            _put(own, channels, rows[at : at + len(part), left:right])
        return np.zeros(shape, np.uint8) if rows is None else rows

    def _drawn(
        self, start: int, stop: int, convert: Convert | None
    ) -> Iterator[tuple[int, Pixels]]:
        """Rows of the artwork in output pixels, alpha (if any) last: parts and their first rows."""
        if self._is_straight:
            yield from _in_turn(self.artwork.parts(start, stop), start)
            return
        for index in range(start // BLOCK, (stop - 1) // BLOCK + 1):
            block, top = self._block(index, convert), index * BLOCK
            first = max(start, top)
            yield first, block[first - top : stop - top]

    def _block(self, index: int, convert: Convert | None) -> Pixels:
        """Rows that are made at once, or the inks of them, not to be written to."""
        make = self._warped_block if self._is_warped else self._resampled_block
        if convert is None:
            return self._made.get(index, partial(make, index))

        def converted(convert: Convert = convert) -> Pixels:
            inks = convert(self._block(index, None))
            inks.setflags(write=False)
            return inks

        return self._blocks(convert).get(index, converted)

    def _resampled_block(self, index: int) -> Pixels:
        top, bottom = index * BLOCK, min((index + 1) * BLOCK, self.drawn[1])
        return resampled_rows(self.artwork, self.drawn, top, bottom, self._columns)


def _in_turn(parts: Iterable[Pixels], first: int) -> Iterator[tuple[int, Pixels]]:
    """Parts that follow each other, with the first row of each."""
    for part in parts:
        yield first, part
        first += len(part)


def _picked(pixels: Pixels, channels: slice | int) -> Pixels:
    """A copy of some channels; OpenCV picks those that most artwork has, much more quickly."""
    if isinstance(channels, int):
        return np.asarray(cv2.extractChannel(pixels, channels), np.uint8)
    if _are_rgb(pixels, channels):
        return np.asarray(cv2.cvtColor(pixels, cv2.COLOR_RGBA2RGB), np.uint8)
    return pixels[..., channels].copy()


def _put(pixels: Pixels, channels: slice | int | None, at: Pixels) -> None:
    """Lay some channels, or all, where they belong."""
    if isinstance(channels, int) and pixels.size:
        cv2.extractChannel(pixels, channels, at)
    elif _are_rgb(pixels, channels) and pixels.size:
        cv2.cvtColor(pixels, cv2.COLOR_RGBA2RGB, at)
    else:
        at[...] = pixels if channels is None else _picked(pixels, channels)


def _are_rgb(pixels: Pixels, channels: slice | int | None) -> bool:
    """Whether channels are the first three of four."""
    return channels == slice(0, 3) and pixels.shape[2] == 4
