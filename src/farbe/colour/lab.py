"""CIE L*a*b* of linear light under D50, and the difference of colours."""

from __future__ import annotations

from typing import Final

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.float64]

#: White of the CIE illuminant D50, 2° observer, as ICC profiles have it (ICC.1:2022, 7.2.16).
D50: Final[Floats] = np.array([0.9642, 1.0, 0.8249])
#: Linear sRGB (IEC 61966-2-1) to XYZ, adapted to D50 by Bradford's matrix.
_TO_XYZ: Final[Floats] = np.array(
    [
        [0.4360747, 0.3850649, 0.1430804],
        [0.2225045, 0.7168786, 0.0606169],
        [0.0139322, 0.0971045, 0.7141733],
    ]
)
_FROM_XYZ: Final[Floats] = np.asarray(np.linalg.inv(_TO_XYZ), np.float64)
_EDGE: Final = 6 / 29


def xyz_of_light(light: npt.ArrayLike) -> Floats:
    """XYZ under D50 of linear sRGB.

    Parameters
    ----------
    light : linear sRGB, (..., 3); colours beyond sRGB have figures below 0 or above 1

    Returns
    -------
    float64 (..., 3), Y of white 1.
    """
    return np.asarray(np.asarray(light, np.float64) @ _TO_XYZ.T)


def light_of_xyz(xyz: npt.ArrayLike) -> Floats:
    """Linear sRGB of XYZ under D50, not clipped.

    Parameters
    ----------
    xyz : (..., 3), Y of white 1

    Returns
    -------
    float64 (..., 3); colours beyond sRGB have figures below 0 or above 1.
    """
    return np.asarray(np.asarray(xyz, np.float64) @ _FROM_XYZ.T)


def lab_of_xyz(xyz: npt.ArrayLike) -> Floats:
    """CIE L*a*b* (ISO/CIE 11664-4) of XYZ under D50.

    Parameters
    ----------
    xyz : (..., 3), Y of white 1

    Returns
    -------
    float64 (..., 3): L* 0 to 100, a* and b*.
    """
    t = np.asarray(xyz, np.float64) / D50
    f = np.where(t > _EDGE**3, np.cbrt(t), t / (3 * _EDGE**2) + 4 / 29)
    x, y, z = np.moveaxis(f, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)


def xyz_of_lab(lab: npt.ArrayLike) -> Floats:
    """XYZ under D50 of CIE L*a*b* (ISO/CIE 11664-4).

    Parameters
    ----------
    lab : (..., 3)

    Returns
    -------
    float64 (..., 3), Y of white 1.
    """
    light, a, b = np.moveaxis(np.asarray(lab, np.float64), -1, 0)
    y = (light + 16) / 116
    f = np.stack([y + a / 500, y, y - b / 200], axis=-1)
    return np.asarray(D50 * np.where(f > _EDGE, f**3, 3 * _EDGE**2 * (f - 4 / 29)))


def lab_of_light(light: npt.ArrayLike) -> Floats:
    """CIE L*a*b* under D50 of linear sRGB.

    Parameters
    ----------
    light : linear sRGB, (..., 3)

    Returns
    -------
    float64 (..., 3): L* 0 to 100, a* and b*.
    """
    return lab_of_xyz(xyz_of_light(light))


def light_of_lab(lab: npt.ArrayLike) -> Floats:
    """Linear sRGB, not clipped, of CIE L*a*b* under D50.

    Parameters
    ----------
    lab : (..., 3)

    Returns
    -------
    float64 (..., 3)
    """
    return light_of_xyz(xyz_of_lab(lab))


def difference(one: Floats, other: Floats) -> Floats:
    """CIEDE2000 of L*a*b* values, shapes (..., 3), broadcast against each other.

    Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula", Color Research and
    Application 30 (1), 2005.

    Parameters
    ----------
    one, other : CIE L*a*b*, float64 (..., 3)

    Returns
    -------
    float64 (...), 0 for the same colour.
    """
    l1, a1, b1 = np.moveaxis(np.asarray(one, np.float64), -1, 0)
    l2, a2, b2 = np.moveaxis(np.asarray(other, np.float64), -1, 0)
    c_mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    g = 0.5 * (1 - np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7)))
    a1, a2 = a1 * (1 + g), a2 * (1 + g)
    c1, c2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360
    grey = c1 * c2 == 0
    dh = np.where(grey, 0.0, (h2 - h1 + 180) % 360 - 180)
    # At exactly half a turn the sign of the difference is that of the larger angle.
    dh = np.where((np.abs(h2 - h1) == 180) & ~grey, h2 - h1, dh)
    hue = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(dh / 2))
    total = h1 + h2
    near = np.abs(h1 - h2) <= 180
    h_mean = np.where(near, total / 2, np.where(total < 360, total / 2 + 180, total / 2 - 180))
    h_mean = np.where(grey, total, h_mean)
    return _weighed(l1, l2, c1, c2, hue, h_mean)


def _weighed(l1: Floats, l2: Floats, c1: Floats, c2: Floats, hue: Floats, h: Floats) -> Floats:
    """The difference from its parts, with the weights of lightness, chroma and hue."""
    l_mean, c_mean = (l1 + l2) / 2, (c1 + c2) / 2
    t = (
        1
        - 0.17 * np.cos(np.radians(h - 30))
        + 0.24 * np.cos(np.radians(2 * h))
        + 0.32 * np.cos(np.radians(3 * h + 6))
        - 0.20 * np.cos(np.radians(4 * h - 63))
    )
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)
    s_c, s_h = 1 + 0.045 * c_mean, 1 + 0.015 * c_mean * t
    turn = 30 * np.exp(-(((h - 275) / 25) ** 2))
    r_c = 2 * np.sqrt(c_mean**7 / (c_mean**7 + 25.0**7))
    r_t = -np.sin(np.radians(2 * turn)) * r_c
    light, chroma, tint = (l2 - l1) / s_l, (c2 - c1) / s_c, hue / s_h
    found = np.sqrt(light**2 + chroma**2 + tint**2 + r_t * chroma * tint)
    return np.asarray(found, np.float64)
