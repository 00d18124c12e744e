"""What films of white, blackout and named inks reflect and let through, by least squares."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from farbe.colour.lab import lab_of_light, light_of_lab
from farbe.model.condition import InkFilm
from farbe.model.patch import Base, Patch
from farbe.model.piece import Material, Reader, Surface
from farbe.model.printer import LayerKind, Printer
from farbe.optics.films import Film, hits, over
from farbe.optics.inks import substrate
from farbe.optics.light import to_linear
from farbe.optics.look import BEHIND
from farbe.optics.patches import ChartLayer, Floats, chart_layers

#: What one hit of an ink reflects of the light that it does not swallow, to begin with.
_BEGIN = {
    LayerKind.WHITE: (0.7, 0.99),
    LayerKind.BLACKOUT: (0.2, 0.06),
    LayerKind.NAMED: (0.8, 0.5),
}
#: The least share of light that a film leaves.
_LEAST = 1e-3


@dataclass(frozen=True, eq=False)
class Ground:
    """What a chart was printed on, as it was measured.

    Attributes
    ----------
    surface : with the colour that it has
    behind : linear sRGB of what lay behind a clear piece, if it did
    """

    surface: Surface
    behind: tuple[float, float, float] | None = None


@dataclass(frozen=True, eq=False)
class Measured:
    """Patches and what was read of them.

    Attributes
    ----------
    patches : of the chart
    lab : CIE L*a*b* under D50, (n, 3), NaN where nothing was read
    """

    patches: tuple[Patch, ...]
    lab: Floats

    def where(self, wanted: Callable[[Patch], bool]) -> Measured:
        """Those that are wanted and were read.

        Parameters
        ----------
        wanted : which are
        """
        at = [
            i for i, patch in enumerate(self.patches)
            if wanted(patch) and np.isfinite(self.lab[i, 0])
        ]  # fmt: skip
        return Measured(tuple(self.patches[i] for i in at), self.lab[at])

    def mean(self, wanted: Callable[[Patch], bool]) -> Floats | None:
        """CIE L*a*b* of those that are wanted, on the mean; None if none was read.

        Parameters
        ----------
        wanted : which are
        """
        found = self.where(wanted)
        return None if not found.patches else np.asarray(found.lab.mean(axis=0))


def ground_of(measured: Measured, surface: Surface, reader: Reader) -> Ground:
    """What the chart lay on, from its bare patches.

    Parameters
    ----------
    measured : by day
    surface : as it was stated
    reader : from which side it was read
    """
    bare = measured.mean(lambda p: p == Patch())
    if bare is None:
        return Ground(surface)
    r, g, b = np.clip(light_of_lab(bare), 0.0, 1.0).tolist()
    if surface.material is Material.CLEAR:
        # The piece itself reflects 0.01 and lets 0.97 through, both ways.
        r, g, b = ((x - 0.01) / (0.97**2 + 0.01 * (x - 0.01)) for x in (r, g, b))
        return Ground(surface, (max(0.0, r), max(0.0, g), max(0.0, b)))
    if surface.material is Material.TRANSLUCENT:
        # By day it looks as something opaque of that colour, whatever lets how much through.
        surface = surface.replace(material=Material.OPAQUE)
    levels = np.array([r, g, b])
    shown = np.where(levels <= 0.0031308, levels * 12.92, 1.055 * levels ** (1 / 2.4) - 0.055)
    colour = "#" + "".join(f"{round(255 * level):02x}" for level in shown.tolist())
    return Ground(surface.replace(colour=colour))


def fitted_films(
    measured: Measured, printer: Printer, ground: Ground, reader: Reader
) -> tuple[tuple[InkFilm, ...], float]:
    """The films of white, blackout and named inks that explain their patches best.

    All films are told at once by the equations that proofs use, so that what lies behind and
    between them is in it.

    Parameters
    ----------
    measured : by day
    printer : whose inks they are
    ground : that they lay on
    reader : from which side they were read

    Returns
    -------
    A film for each ink that was measured, and the CIE76 that is left on the mean.
    """
    inks = _inks(measured, printer)
    part = measured.where(_tells_films)
    if not inks or not part.patches:
        return (), 0.0
    layers = chart_layers(part.patches, printer, reader)
    names = [printer.inks_of(one.layer.kind, one.layer.ink)[0].name for one in layers]

    def films(values: Floats) -> tuple[InkFilm, ...]:
        return tuple(_film(name, values[6 * at : 6 * at + 6]) for at, (name, _) in enumerate(inks))

    def off(values: Floats) -> Floats:
        known = {name: _with_axes(values[6 * at : 6 * at + 6]) for at, (name, _) in enumerate(inks)}
        light = _light(layers, [known[name] for name in names], ground, reader)
        return np.asarray((lab_of_light(light) - part.lab).ravel())

    begin = np.concatenate([[share] * 3 + [left] * 3 for _, (share, left) in inks])
    # Half a second to load, which only who measures has to wait for.
    from scipy.optimize import least_squares

    # A stray reading counts little.
    found = least_squares(
        off, begin, bounds=(_LEAST, 1.0 - 1e-6), x_scale=0.05, diff_step=1e-4, loss="soft_l1",
        f_scale=2.0,
    )  # fmt: skip
    residual = np.linalg.norm(found.fun.reshape(-1, 3), axis=1).mean()
    return films(found.x), float(residual)


def _with_axes(values: Floats) -> Film:
    """A film whose figures have an axis of bands."""
    share, left = values[:3], values[3:]
    return Film.even(share * left, (1.0 - share) * left)


def _light(
    layers: Sequence[ChartLayer], films: Sequence[Film], ground: Ground, reader: Reader
) -> Floats:
    """Linear sRGB, (n, 3), of patches of films, each by the equations that proofs use."""
    bare = substrate(ground.surface).films
    piece = Film.even(
        np.array([float(band.front) for band in bare]),
        np.array([float(band.through) for band in bare]),
    )
    behind = np.array(to_linear(BEHIND) if ground.behind is None else ground.behind)
    count = len(layers[0].levels[0])
    light: Floats = np.repeat(behind[None, :], count, axis=0)
    laid = [
        hits(film.covering(np.array(one.levels[0])[:, None] / 255.0), one.layer.hits)
        for one, film in zip(layers, films, strict=True)
    ]
    seen = laid if reader is Reader.FACE else laid[::-1]
    for film in [*seen, piece] if reader is Reader.THROUGH else [piece, *seen]:
        light = np.asarray(over(film, light), np.float64)
    return light


def _film(ink: str, values: Floats) -> InkFilm:
    """A film from the share that it scatters back of what it leaves, and what it leaves."""
    share, left = values[:3], values[3:]
    r0, r1, r2 = np.round(share * left, 5).tolist()
    t0, t1, t2 = np.round((1.0 - share) * left, 5).tolist()
    return InkFilm(ink=ink, reflected=(r0, r1, r2), through=(t0, t1, t2))


def _tells_films(patch: Patch) -> bool:
    """Whether a patch shows films alone: no process ink, no varnish, no halftone."""
    return (
        patch.total == 0 and not patch.varnish and patch.level == 100.0
        and patch.amount in (0.0, 100.0)
    )  # fmt: skip


def _inks(measured: Measured, printer: Printer) -> list[tuple[str, tuple[float, float]]]:
    """Names of inks whose films the patches show, and where to begin with each."""
    found: dict[str, tuple[float, float]] = {}
    for kind, has in (
        (LayerKind.WHITE, lambda p: p.white > 0 or p.base is Base.WHITE),
        (LayerKind.BLACKOUT, lambda p: p.blackout > 0 or p.base is Base.BLACK),
    ):
        inks = printer.inks_of(kind)
        if inks and measured.where(has).patches:
            found[inks[0].name] = _BEGIN[kind]
    named: Sequence[str] = sorted({p.named for p in measured.patches if p.named})
    for name in named:
        found[name] = _BEGIN[LayerKind.NAMED]
    return list(found.items())
