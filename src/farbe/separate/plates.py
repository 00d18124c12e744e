"""Layers to plates."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import cv2
import numpy as np
import numpy.typing as npt

from farbe.art.artwork import Pixels
from farbe.kept import Kept, once
from farbe.model.layer import Join, Layer
from farbe.model.meaning import Meaning
from farbe.model.printer import LayerKind
from farbe.model.source import FilePlate, Source, SourceValue
from farbe.model.treatment import Choke, Holes, Spread, Treatment
from farbe.registry import Methods
from farbe.separate.choke import Plate
from farbe.separate.grid import Grid
from farbe.separate.inkwork import (
    AS_CONVERTED,
    NO_LIMITS,
    ColourWork,
    InkLimits,
    across,
    turned_over,
    under_alpha,
)
from farbe.separate.lettering import Lettering
from farbe.separate.outline import PixelRing, covered, rasterise
from farbe.separate.place import PlacedArtwork
from farbe.separate.sent import Levels
from farbe.separate.tones import Screen, lightness_table, screen_for
from farbe.separate.treat import StripContext, adds, halo, opened, treated

#: Pixels along the longer side of the picture in which holes inside a shape are found.
HOLES_SIDE = 1200


def _plain(ring: npt.NDArray[np.float64]) -> PixelRing:
    return ring


@dataclass(frozen=True, eq=False)
class Separation:
    """One piece's plates, ready to be asked for rows.

    Attributes
    ----------
    layers : the layers that print, substrate up; colour gives four plates, every other one
    piece : outline of the piece in pixels of the canvas, for layers over the whole of it
    middle : of the piece, in pixels of the canvas; None is the canvas's own
    mirrored : whether the plates are turned left to right
    lettering : lines of type over the artwork; they knock out what is under them
    clip : what may be printed on, for layers that reach beyond the artwork
    profile : the printer's CMYK profile, by which CMYK artwork is looked at
    pixels : places in mm around the piece's middle, y up, to pixels of the canvas
    named : plates that came with the artwork, placed as it is, by their name in lower case
    meant : names of these plates by what they are for
    stack : layers that others may come from, whether they print or not
    opposite : what the reader on the other side sees; the layers named in ``opposite_layers`` are
        made there and turned over
    see_through : holes through all layers; the edges of layers without colour stand back from
        them by their choke
    sent : the levels that are sent for those that are wanted, uint8 (256,) for each plate of a
        layer, by its name; None of an ink that is sent as it is wanted
    kept : treatments keep what follows from the artwork alone, as pictures want that an edit asks
        for again
    shapes : where the artwork lies, by first and last row, for those who look at the same again
    """

    placed: PlacedArtwork
    layers: tuple[Layer, ...]
    converter: Callable[[Pixels], Pixels]
    grid: Grid
    piece: tuple[PixelRing, ...]
    mirrored: bool = False
    lettering: tuple[Lettering, ...] = ()
    clip: tuple[PixelRing, ...] | None = None
    profile: bytes = b""
    pixels: Callable[[npt.NDArray[np.float64]], PixelRing] = _plain
    named: Mapping[str, PlacedArtwork] = field(default_factory=dict)
    meant: Mapping[Meaning, tuple[str, ...]] = field(default_factory=dict)
    stack: tuple[Layer, ...] = ()
    limits: InkLimits = NO_LIMITS
    colours: ColourWork = AS_CONVERTED
    opposite: Separation | None = None
    opposite_layers: frozenset[str] = frozenset()
    middle: tuple[float, float] | None = None
    see_through: Holes | None = None
    sent: Mapping[str, tuple[Levels | None, ...]] = field(default_factory=dict)
    kept: bool = False
    shapes: Kept[tuple[int, int], Plate] | None = None

    @property
    def size(self) -> tuple[int, int]:
        """(width, height) in pixels."""
        return self.placed.canvas

    @property
    def count(self) -> int:
        """Number of plates."""
        return sum(layer.plates for layer in self.layers)

    def plates(self, start: int, stop: int) -> list[Plate]:
        """Coverage of rows, each plate uint8 (rows, width), in the order of ``layers``.

        Any two calls agree on the rows that they share.

        Parameters
        ----------
        start, stop : rows of the canvas; may lie beyond it

        Returns
        -------
        Coverage, uint8 (stop - start, width) for each plate: four of process colour, one of every
        other layer, in the order of ``layers``.
        """
        return [plate for layer in self.layers for plate in self.printed(layer, start, stop)]

    def printed(self, layer: Layer, start: int, stop: int) -> list[Plate]:
        """The plates of one layer as they are printed.

        Parameters
        ----------
        layer : one of ``layers``
        start, stop : rows of the canvas; may lie beyond it

        Returns
        -------
        One plate, or four of process colour, uint8 (stop - start, width).
        """
        return _planes(self.together(layer, start, stop))

    def together(self, layer: Layer, start: int, stop: int) -> Pixels:
        """The plates of one layer as they are printed, side by side in each pixel.

        Parameters
        ----------
        layer : one of ``layers``
        start, stop : rows of the canvas; may lie beyond it

        Returns
        -------
        uint8 (stop - start, width, 1), or 4 of process colour.
        """
        if layer.name in self.opposite_layers and self.opposite is not None:
            made = turned_over(self.opposite._together(layer, start, stop))
        else:
            made = self._together(layer, start, stop)
        made = self._sent(layer, self._opened(layer, made, start))
        return turned_over(made) if self.mirrored else made

    def looks_around(self, layer: Layer) -> bool:
        """Whether rows of a layer may follow from more than the same rows of the artwork.

        What does not can be made by as few rows as the processor's own memory holds.

        Parameters
        ----------
        layer : one of ``layers``
        """
        if layer.kind is not LayerKind.COLOUR or self.see_through is not None:
            return True
        return any(self._halo(treatment) for treatment in layer.active)

    def of_layer(self, layer: Layer, start: int, stop: int) -> list[Plate]:
        """The plates of one layer, as its reader sees them, before holes to see through.

        Parameters
        ----------
        layer : one of ``layers``, or any other
        start, stop : rows of the canvas

        Returns
        -------
        One plate, or four of process colour, uint8 (stop - start, width), not mirrored.
        """
        return _planes(self._together(layer, start, stop))

    def _together(self, layer: Layer, start: int, stop: int) -> Pixels:
        """The same side by side in each pixel."""
        if layer.kind is LayerKind.COLOUR:
            return self._process(layer, start, stop)
        return self._coverage(layer, start, stop)[..., None]

    def _opened(self, layer: Layer, made: Pixels, start: int) -> Pixels:
        """Plates of a layer with the holes that all layers have."""
        if self.see_through is None:
            return made
        back = 0.0 if layer.kind is LayerKind.COLOUR else 2 * layer.choke
        holes = self.see_through.model_copy(update={"size": self.see_through.size + back})
        return _merged(opened(_planes(made), holes, self._ground(start)))

    def _sent(self, layer: Layer, made: Pixels) -> Pixels:
        """Plates by the curves of the layer's inks, under the limits."""
        curves = self.sent.get(layer.name, ())
        if not any(curve is not None for curve in curves):
            return made
        sent = _merged([
            plate if curve is None else np.asarray(cv2.LUT(plate, curve), np.uint8)
            for plate, curve in zip(_planes(made), curves, strict=True)
        ])  # fmt: skip
        # More may be sent than was wanted, and limits hold for what is printed.
        return self.limits(sent) if layer.kind is LayerKind.COLOUR else sent

    @once
    def words(self) -> tuple[Lettering, ...]:
        """Lines of type in colour; others go to a layer of their own."""
        return tuple(line for line in self.lettering if not line.into)

    # process colour

    def _process(self, layer: Layer, start: int, stop: int) -> Pixels:
        of_cover = tuple(t for t in layer.active if t.of_cover)
        others = tuple(t for t in layer.active if not t.of_cover)
        above = sum(self._halo(t) for t in others)
        inks = self.inks(start - above, stop + above, of_cover)
        if others:
            inks = _merged([
                self._treated(plane, others, start, stop, above) for plane in _planes(inks)
            ])  # fmt: skip
        # Limits hold for what is printed, so they come after all that is done to it.
        return self.limits(inks)

    def inks(self, start: int, stop: int, of_cover: tuple[Treatment, ...] = ()) -> Pixels:
        """Process coverage before all other treatments, uint8 (rows, width, 4).

        Parameters
        ----------
        start, stop : rows of the canvas
        of_cover : done to how far the artwork covers, as hard edges or dots

        Returns
        -------
        uint8 (stop - start, width, 4): cyan, magenta, yellow, black, before limits.
        """
        alpha = self._alpha(start, stop, of_cover)
        inks = np.zeros((len(alpha), 0, 4), np.uint8)
        left = 0
        # Nothing is converted where the artwork is transparent.
        used = np.flatnonzero(alpha.max(axis=0, initial=0) != 0)
        if len(used):
            columns = slice(int(used[0]), int(used[-1]) + 1)
            found = self.colours.given(
                self._converted(start, stop, columns),
                lambda: self.on_screen(self.placed.colours(start, stop)[:, columns]),
            )
            inks, left = under_alpha(found, alpha[:, columns]), columns.start
        inks = across(inks, left, alpha.shape[1])
        for name, recipe in self.colours.printed:
            self._print_plate(inks, name, recipe, start, stop)
        for line in self.words:
            self._over(inks, line, line.inks, start, stop)
        return inks

    def _converted(self, start: int, stop: int, columns: slice) -> Pixels:
        """Inks of all the artwork's colours, as the profile has them, not to be written to."""
        if self.kept:
            return self.placed.inks(self.converter, start, stop)[:, columns]
        return self.converter(self.placed.pixels(start, stop)[:, columns])

    def _alpha(self, start: int, stop: int, of_cover: tuple[Treatment, ...]) -> Plate:
        """How far the artwork covers, after treatments of that."""
        above = sum(self._halo(t) for t in of_cover)
        alpha = self.placed.alpha(start - above, stop + above)
        return self._treated(alpha, of_cover, start, stop, above) if of_cover else alpha

    def _print_plate(
        self, inks: Pixels, name: str, recipe: tuple[float, ...], start: int, stop: int
    ) -> None:
        """Lay a named plate's recipe over process inks, in place: the more ink stays."""
        plate = self.plate(name, start, stop)
        for i, percent in enumerate(recipe):
            if percent:
                scaled = cv2.convertScaleAbs(plate, alpha=percent / 100.0)
                np.maximum(inks[..., i], np.asarray(scaled, np.uint8), out=inks[..., i])

    def _over(
        self, target: Pixels, line: Lettering, colour: tuple[int, ...], start: int, stop: int
    ) -> None:
        """Lay a line of type over pixels, in place."""
        covered = line.cover(self.size[0], start, stop)
        if covered is not None:
            place, cover = covered
            share = cover[..., None].astype(np.float32) / 255.0
            under = target[place].astype(np.float32)
            mixed = under + share * (np.array(colour, np.float32) - under)
            target[place] = np.rint(mixed).astype(np.uint8)

    # other layers

    def acting(self, layer: Layer) -> tuple[Treatment, ...]:
        """The treatments that act on a layer: plates of the file keep the edges that they have.

        Parameters
        ----------
        layer : one of ``layers``, or any other
        """
        source = layer.source
        drawn = isinstance(source, FilePlate) and not source.treated
        if not isinstance(source, FilePlate) or not drawn or not self.meant.get(source.meaning):
            return layer.active
        return tuple(t for t in layer.active if not isinstance(t, Choke | Spread))

    def around(self, layer: Layer) -> int:
        """Rows on either side that the treatments of a layer look at with any that are made.

        Parameters
        ----------
        layer : one of ``layers``, or any other
        """
        return sum(self._halo(t) for t in self.acting(layer))

    def plate(self, name: str, start: int, stop: int) -> Plate:
        """A plate that came with the artwork, uint8 (rows, width); nothing without it.

        Parameters
        ----------
        name : in any case
        start, stop : rows of the canvas
        """
        found = self.named.get(name.casefold())
        if found is None:
            return np.zeros((stop - start, self.size[0]), np.uint8)
        levels = found.colours(start, stop)[..., 0]
        return np.minimum(np.ascontiguousarray(levels), found.alpha(start, stop))

    @once
    def _without(self) -> dict[str, Separation]:
        """The separation with a layer less that others may come from, by its name."""
        return {
            layer.name: replace(self, stack=tuple(la for la in self.stack if la is not layer))
            for layer in self.stack
        }

    def as_layer(self, name: str, start: int, stop: int) -> Plate:
        """What a layer of the stack lays down, uint8 (rows, width); not mirrored.

        Parameters
        ----------
        name : of the layer; nothing is laid down by one that is not there or comes from itself
        start, stop : rows of the canvas
        """
        layer = next((la for la in self.stack if la.name == name), None)
        if layer is None:
            return np.zeros((stop - start, self.size[0]), np.uint8)
        made = self._without[name].of_layer(layer, start, stop)
        return np.asarray(np.max(made, axis=0), np.uint8) if len(made) > 1 else made[0]

    def _halo(self, treatment: Treatment) -> int:
        """Rows above and below that a treatment looks at."""
        return halo(treatment, self.grid, kept=self.kept)

    def _coverage(self, layer: Layer, start: int, stop: int) -> Plate:
        acting, above = self.acting(layer), self.around(layer)
        low, high = start - above, stop + above
        plate = self._from(layer.source, low, high)
        for one in layer.more:
            plate = _joined(plate, one.join, self._from(one.source, low, high))
        rows = self._treated(plate, acting, start, stop, above)
        for line in self.lettering:
            covered = line.cover(self.size[0], start, stop) if line.into == layer.name else None
            if covered is not None:
                rows = rows.copy()
                rows[covered[0]] = np.maximum(rows[covered[0]], covered[1])
        return rows

    def _treated(
        self, plate: Plate, treatments: tuple[Treatment, ...], start: int, stop: int, above: int
    ) -> Plate:
        if not treatments:
            return plate[above : above + stop - start]
        ground, spare = self._ground(start - above), 0
        for treatment in treatments:
            spare += self._halo(treatment)
            plate = treated(plate, treatment, replace(ground, spare=spare))
        rows = plate[above : above + stop - start]
        if self.clip is not None and adds(treatments):
            # Whatever treatments did, nothing prints beyond the piece and its bleed.
            cover = covered if self.kept else rasterise
            inside = cover(self.clip, self.size[0], start, stop)
            rows = np.minimum(rows, inside)
        return np.ascontiguousarray(rows)

    def _ground(self, top: int) -> StripContext:
        middle = self.middle or (self.size[0] / 2, self.size[1] / 2)
        return StripContext(
            self.grid, self.size, top, self.lightness, self._inner_holes, self._from, middle,
            kept=self.kept, lies=self.placed.lies(top),
        )  # fmt: skip

    def _from(self, source: Source, start: int, stop: int) -> Plate:
        """What a source covers, before any treatment."""
        return DRAWING.of(source)(self, source, start, stop)

    def shape(self, start: int, stop: int) -> Plate:
        """Where artwork or lettering lies, uint8 (rows, width); not mirrored.

        Parameters
        ----------
        start, stop : rows of the canvas

        Returns
        -------
        uint8 (stop - start, width), 255 where all of the pixel is covered; not to be written to.
        """
        if self.shapes is None:
            return self._shape(start, stop)
        return self.shapes.get((start, stop), lambda: self._shape(start, stop))

    def _shape(self, start: int, stop: int) -> Plate:
        found = self.placed.alpha(start, stop)
        lines = [line.cover(self.size[0], start, stop) for line in self.words]
        if any(covered is not None for covered in lines):
            found = found.copy()
        for place, cover in filter(None, lines):
            np.maximum(found[place], cover, out=found[place])
        found.setflags(write=False)
        return found

    def on_screen(self, colours: Pixels) -> Pixels:
        """Colours of the artwork as sRGB.

        Parameters
        ----------
        colours : uint8 (h, w, n), as the artwork's space has them

        Returns
        -------
        uint8 (h, w, 3)
        """
        return self.to_screen(colours)

    @property
    def to_screen(self) -> Screen:
        """How colours of the artwork are shown; one and the same for artworks of one space."""
        art = self.placed.artwork
        return screen_for(art.space, art.icc, self.profile)

    def screen(self, start: int, stop: int) -> Pixels:
        """The artwork's colours as sRGB, uint8 (rows, width, 3), lettering included.

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (h, w, n)
        """
        shown = self.on_screen(self.placed.colours(start, stop))
        if self.words:
            shown = shown.copy()
            for line in self.words:
                self._over(shown, line, line.colour, start, stop)
        return shown

    def lightness(self, start: int, stop: int) -> Plate:
        """CIE L* × 2.55 of the artwork, lettering included, uint8 (rows, width).

        Parameters
        ----------
        start : first row
        stop : row after the last

        Returns
        -------
        uint8 (h, w)
        """
        return lightness_table()(self.screen(start, stop))

    @once
    def _holes(self) -> tuple[Plate, float, float]:
        """Holes inside the shape on a coarse canvas, a little grown; canvas pixels for each."""
        width, height = self.size
        by = max(1, -(-max(width, height) // HOLES_SIDE))
        rows = []
        for start in range(0, height, 64 * by):
            stop = min(height, start + 64 * by)
            strip = self.shape(start, stop)
            size = (-(-width // by), -(-(stop - start) // by))
            rows.append(np.asarray(cv2.resize(strip, size, interpolation=cv2.INTER_AREA)))
        coarse = np.pad(np.concatenate(rows), 1)
        empty = (coarse < 128).astype(np.uint8)
        _, labels = cv2.connectedComponents(empty, connectivity=4)
        inner = np.where((empty > 0) & (labels != labels[0, 0]), 255, 0).astype(np.uint8)[
            1:-1, 1:-1
        ]
        # Grown over the holes' soft edges, which a coarse picture puts a pixel off.
        inner = np.asarray(cv2.dilate(inner, np.ones((5, 5), np.uint8)), dtype=np.uint8)
        return inner, inner.shape[1] / width, inner.shape[0] / height

    def _inner_holes(self, start: int, stop: int) -> Plate:
        """Rows of a plate that is solid in and around holes inside the shape."""
        coarse, across, along = self._holes
        width, height = self.size
        columns = np.minimum((np.arange(width) + 0.5) * across, coarse.shape[1] - 1).astype(int)
        found = np.zeros((stop - start, width), np.uint8)
        top, bottom = max(0, start), min(height, stop)
        if top < bottom:
            lines = np.minimum((np.arange(top, bottom) + 0.5) * along, coarse.shape[0] - 1)
            found[top - start : bottom - start] = coarse[lines.astype(int)][:, columns]
        return found


#: What each kind of source covers: from a separation, the source, first and last row.
DRAWING: Methods[Callable[[Separation, Any, int, int], Plate]] = Methods("drawing")
Drawn = TypeVar("Drawn", bound=Callable[..., Plate])


def draws(*kinds: type[SourceValue]) -> Callable[[Drawn], Drawn]:
    """Enter what kinds of sources cover; used as a decorator.

    The function gets the separation, the source, and the rows; it gives uint8 (rows, width), not
    mirrored.

    Parameters
    ----------
    *kinds : of sources

    Returns
    -------
    The decorator, which gives the function back as it is.
    """

    def enter(drawn: Drawn) -> Drawn:
        for kind in kinds:
            DRAWING.enter(kind, drawn)
        return drawn

    return enter


def _planes(made: Pixels) -> list[Plate]:
    """Plates that lie side by side in each pixel, each by itself."""
    if made.shape[2] == 1:
        return [made[..., 0]]
    return [np.asarray(plane, np.uint8) for plane in cv2.split(made)]


def _merged(planes: list[Plate]) -> Pixels:
    """Plates side by side in each pixel."""
    return np.asarray(cv2.merge(planes), np.uint8).reshape(*planes[0].shape, len(planes))


def _joined(plate: Plate, join: Join, other: Plate) -> Plate:
    match join:
        case Join.ADD:
            return np.maximum(plate, other)
        case Join.SUBTRACT:
            return np.minimum(plate, 255 - other)
        case Join.INTERSECT:
            return np.minimum(plate, other)


# What is drawn builds on what is here, and has to be known wherever plates are made.
from farbe.separate import drawing as _drawing  # noqa: E402, F401
