"""A simulated measuring device: it reads patches off what the press printed."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Final

import numpy as np
import numpy.typing as npt

from farbe.colour.lab import lab_of_xyz, light_of_xyz, xyz_of_light
from farbe.colour.spectra import WAVELENGTHS, xyz_of_spectra

Floats = npt.NDArray[np.float64]
#: Side in mm of what the device looks at.
APERTURE: Final = 3.0
#: How far two readings of one place differ: standard deviation as a share of the light, and of
#: white that is always there.
NOISE: Final = (0.002, 0.0001)


def read_spots(light: npt.ArrayLike, *, seed: int = 0) -> Floats:
    """XYZ under D50 of places of a print, as a device reads them.

    Parameters
    ----------
    light : of each place on the mean, linear sRGB (n, 3)
    seed : of the device's noise

    Returns
    -------
    float64 (n, 3), Y of white 1.
    """
    found = xyz_of_light(light)
    rng = np.random.default_rng(seed)
    share, dark = NOISE
    noise = 1.0 + share * rng.standard_normal(len(found))[:, None]
    return np.asarray(np.maximum(found * noise + dark * rng.standard_normal(found.shape), 0.0))


def _basis() -> Floats:
    """Smooth spectra of blue, green and red light that are white together, (3, 36)."""
    low = 1.0 / (1.0 + np.exp((WAVELENGTHS - 490.0) / 12.0))
    high = 1.0 / (1.0 + np.exp(-(WAVELENGTHS - 585.0) / 12.0))
    return np.stack([high, 1.0 - low - high, low])


def spectra_of(xyz: Floats) -> Floats:
    """A smooth spectrum that looks like each XYZ under D50, (n, 36).

    Parameters
    ----------
    xyz : (n, 3), Y of white 1
    """
    basis = _basis()
    seen = light_of_xyz(xyz_of_spectra(WAVELENGTHS, basis))
    weights = np.linalg.solve(seen.T, light_of_xyz(xyz).T).T
    return np.asarray(weights @ basis)


def as_cgats(names: Sequence[str], xyz: Floats, *, spectral: bool) -> str:
    """Readings as a text by CGATS.17, as devices write them.

    Parameters
    ----------
    names : of the patches, in the order in which they were read
    xyz : (n, 3), Y of white 1
    spectral : spectra instead of L*a*b*
    """
    if spectral:
        fields = [f"SPECTRAL_NM{wavelength:.0f}" for wavelength in WAVELENGTHS]
        figures = spectra_of(xyz)
    else:
        fields, figures = ["LAB_L", "LAB_A", "LAB_B"], lab_of_xyz(xyz)
    lines = [
        "CGATS.17", 'ORIGINATOR "Test device"', 'MEASUREMENT_SOURCE "D50, 2 degrees, M1"',
        f"NUMBER_OF_FIELDS {len(fields) + 2}", "BEGIN_DATA_FORMAT",
        " ".join(["SAMPLE_ID", "SAMPLE_NAME", *fields]), "END_DATA_FORMAT",
        f"NUMBER_OF_SETS {len(names)}", "BEGIN_DATA",
    ]  # fmt: skip
    for at, (name, row) in enumerate(zip(names, figures, strict=True), start=1):
        lines.append(" ".join([str(at), f'"{name}"', *(f"{figure:.4f}" for figure in row)]))
    return "\n".join([*lines, "END_DATA", ""])
