"""Spectra to CIE XYZ: the standard observer of 1931 and the illuminant D50, every 10 nm."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt

from farbe.colour.lab import D50, Floats

#: nm at which the tables are told.
WAVELENGTHS: Final[Floats] = np.arange(380.0, 731.0, 10.0)
#: Colour matching functions x, y, z of the 2° observer (ISO/CIE 11664-1), (36, 3).
OBSERVER: Final[Floats] = np.array(
    [
        [0.001368, 0.000039, 0.006450], [0.004243, 0.000120, 0.020050],
        [0.014310, 0.000396, 0.067850], [0.043510, 0.001210, 0.207400],
        [0.134380, 0.004000, 0.645600], [0.283900, 0.011600, 1.385600],
        [0.348280, 0.023000, 1.747060], [0.336200, 0.038000, 1.772110],
        [0.290800, 0.060000, 1.669200], [0.195360, 0.090980, 1.287640],
        [0.095640, 0.139020, 0.812950], [0.032010, 0.208020, 0.465180],
        [0.004900, 0.323000, 0.272000], [0.009300, 0.503000, 0.158200],
        [0.063270, 0.710000, 0.078250], [0.165500, 0.862000, 0.042160],
        [0.290400, 0.954000, 0.020300], [0.433450, 0.994950, 0.008750],
        [0.594500, 0.995000, 0.003900], [0.762100, 0.952000, 0.002100],
        [0.916300, 0.870000, 0.001650], [1.026300, 0.757000, 0.001100],
        [1.062200, 0.631000, 0.000800], [1.002600, 0.503000, 0.000340],
        [0.854450, 0.381000, 0.000190], [0.642400, 0.265000, 0.000050],
        [0.447900, 0.175000, 0.000020], [0.283500, 0.107000, 0.000000],
        [0.164900, 0.061000, 0.000000], [0.087400, 0.032000, 0.000000],
        [0.046770, 0.017000, 0.000000], [0.022700, 0.008210, 0.000000],
        [0.011359, 0.004102, 0.000000], [0.005790, 0.002091, 0.000000],
        [0.002899, 0.001047, 0.000000], [0.001440, 0.000520, 0.000000],
    ]
)  # fmt: skip
#: Relative power of D50 (ISO/CIE 11664-2), (36,).
DAYLIGHT: Final[Floats] = np.array(
    [
        24.49, 29.87, 49.31, 56.51, 60.03, 57.82, 74.82, 87.25, 90.61, 91.37, 95.11, 91.96,
        95.72, 96.61, 97.13, 102.10, 100.75, 102.32, 100.00, 97.74, 98.92, 93.50, 97.69, 99.27,
        99.04, 95.72, 98.86, 95.67, 98.19, 103.00, 99.13, 87.38, 91.60, 92.89, 76.85, 86.51,
    ]
)  # fmt: skip


def xyz_of_spectra(wavelengths: npt.ArrayLike, spectra: npt.ArrayLike) -> Floats:
    """XYZ under D50 of reflectances or transmittances, scaled so that a perfect white is D50.

    Sums of steps of 10 nm (ASTM E308); a band that was not measured has the nearest one's figure.

    Parameters
    ----------
    wavelengths : nm, rising, (m,)
    spectra : share of light, 0 to 1, (..., m)

    Returns
    -------
    float64 (..., 3), Y of white 1.
    """
    given = np.asarray(spectra, np.float64)
    flat = given.reshape(-1, given.shape[-1])
    at = np.asarray(wavelengths, np.float64)
    fitted = np.array([np.interp(WAVELENGTHS, at, one) for one in flat])
    weights = OBSERVER * DAYLIGHT[:, None]
    found = fitted @ weights / weights.sum(axis=0) * D50
    return np.asarray(found.reshape(*given.shape[:-1], 3))
