"""The inks of the test press: made-up absorption spectra and what follows from them.

The same numbers make the shipped CMYK profile (``scripts/make_profile.py``) and the colours in
the press's pictures, so the profile is right for this press as a measured one would be for a
real printer.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Final

import numpy as np
import numpy.typing as npt

Array = npt.NDArray[np.float64]

WAVELENGTHS: Final[Array] = np.arange(400.0, 701.0, 10.0)
#: Extra area that a dot covers, at half coverage, by light spreading in the substrate.
DOT_GAIN: Final = 0.13
D50: Final[Array] = np.array([0.9642, 1.0, 0.8249])


def _bell(centre: float, width: float) -> Array:
    return np.exp(-0.5 * ((WAVELENGTHS - centre) / width) ** 2)


@dataclass(frozen=True)
class InkKind:
    """A process ink by its absorption: reflection density of a solid film over ideal white.

    Attributes
    ----------
    bells : centre and width in nm and height of each band that it absorbs
    step : centre and width in nm and height of an edge below which it absorbs, if it has one
    plain : density at all wavelengths
    """

    bells: tuple[tuple[float, float, float], ...] = ()
    step: tuple[float, float, float] | None = None
    plain: float = 0.0

    def shifted(self, by: float, strength: float, dirt: float) -> InkKind:
        """Another ink of the kind.

        Parameters
        ----------
        by : nm to the red
        strength : factor of all densities
        dirt : density that all wavelengths get more; none gets less than nothing
        """
        bells = tuple((c + by, w, h * strength) for c, w, h in self.bells)
        step = None if self.step is None else (
            self.step[0] + by, self.step[1], self.step[2] * strength
        )  # fmt: skip
        return InkKind(bells, step, max(0.0, self.plain * strength + dirt))

    @property
    def density(self) -> Array:
        """Density at each wavelength, float64 (31,)."""
        found = np.full_like(WAVELENGTHS, self.plain)
        for centre, width, height in self.bells:
            found = found + height * _bell(centre, width)
        if self.step is not None:
            centre, width, height = self.step
            found = found + height / (1.0 + np.exp((WAVELENGTHS - centre) / width))
        return found


def nominal_inks() -> dict[str, InkKind]:
    """The inks that the shipped profile is for, by their name in lower case."""
    return {
        "cyan": InkKind(bells=((645, 62, 1.55), (440, 60, 0.10), (560, 50, 0.12))),
        "magenta": InkKind(bells=((540, 38, 1.60), (430, 50, 0.38))),
        "yellow": InkKind(step=(492.0, 9.0, 1.35), plain=0.02),
        "black": InkKind(plain=1.75),
    }


DENSITIES: Final = {name.capitalize(): ink.density for name, ink in nominal_inks().items()}


def effective_area(coverage: npt.NDArray[np.floating]) -> npt.NDArray[np.floating]:
    """Area an ink optically covers, 0 to 1, for a stated coverage of the same shape.

    Parameters
    ----------
    coverage : 0 to 1, any shape

    Returns
    -------
    0 to 1, the same shape: dots are larger than they were sent.
    """
    return np.asarray(coverage + 4.0 * DOT_GAIN * coverage * (1.0 - coverage))


def reflectance(cmyk: Array) -> Array:
    """Spectral reflectance over ideal white.

    Parameters
    ----------
    cmyk : float64 array, shape (n, 4), 0 to 1

    Returns
    -------
    float64 array, shape (n, 31)
        Neugebauer's area mixing with Demichel's weights; for films that multiply, it factors
        into one term per ink.
    """
    result = np.ones((len(cmyk), len(WAVELENGTHS)))
    for channel, density in enumerate(DENSITIES.values()):
        area = effective_area(cmyk[:, channel : channel + 1])
        result *= 1.0 - area + area * 10.0**-density
    return result


def _lobe(centre: float, below: float, above: float) -> Array:
    width = np.where(centre > WAVELENGTHS, below, above)
    return np.exp(-0.5 * ((WAVELENGTHS - centre) / width) ** 2)


def xyz(spectra: Array) -> Array:
    """CIE XYZ, white = D50, of reflectances (n, 31).

    Colour matching functions: the multi-lobe fit of Wyman, Sloan and Shirley, "Simple Analytic
    Approximations to the CIE XYZ Color Matching Functions", JCGT 2(2), 2013. The light is equal
    energy, adapted to D50 by the Bradford matrix.

    Parameters
    ----------
    spectra : reflectances, 400 to 700 nm by 10, 0 to 1, float64 (n, 31)
    """
    matching = np.stack(
        [
            1.056 * _lobe(599.8, 37.9, 31.0)
            + 0.362 * _lobe(442.0, 16.0, 26.7)
            - 0.065 * _lobe(501.1, 20.4, 26.2),
            0.821 * _lobe(568.8, 46.9, 40.5) + 0.286 * _lobe(530.9, 16.3, 31.1),
            1.217 * _lobe(437.0, 11.8, 36.0) + 0.681 * _lobe(459.0, 26.0, 13.8),
        ],
        axis=1,
    )
    white = matching.sum(axis=0)
    bradford = np.array(
        [[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]]
    )
    scale = (bradford @ D50) / (bradford @ (white / white[1]))
    adapt = np.linalg.inv(bradford) @ np.diag(scale) @ bradford
    return np.asarray((spectra @ matching / white[1]) @ adapt.T)


def linear_rgb(values: Array) -> Array:
    """Linear sRGB, 0 to 1, of D50 XYZ (n, 3); colours outside are clipped.

    Parameters
    ----------
    values : XYZ under D50, float64 (n, 3)
    """
    # IEC 61966-2-1 primaries, adapted to D50 (as in every sRGB ICC profile).
    matrix = np.array(
        [
            [3.1338561, -1.6168667, -0.4906146],
            [-0.9787684, 1.9161415, 0.0334540],
            [0.0719453, -0.2289914, 1.4052427],
        ]
    )
    return np.asarray(np.clip(values @ matrix.T, 0.0, 1.0))


def solid_films(inks: dict[str, InkKind]) -> dict[str, Array]:
    """Transmittance in linear RGB, shape (3,), of one solid film of each ink.

    Parameters
    ----------
    inks : by name
    """
    # Light passes the film twice on its way to the white behind it and back.
    spectra = np.array([10.0**-ink.density for ink in inks.values()])
    solid = np.clip(linear_rgb(xyz(spectra)), 0.004, 1.0)
    return {name: np.asarray(np.sqrt(one)) for name, one in zip(inks, solid, strict=True)}
