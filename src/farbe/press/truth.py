"""What this press's inks really do: nominal, or those of a machine of its own.

Nothing outside the press knows these figures; measuring its prints tells them.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from functools import lru_cache

import cv2
import numpy as np
import numpy.typing as npt

from farbe.press.inks import DOT_GAIN, InkKind, nominal_inks, solid_films
from farbe.press.plates import Coverage

Band3 = npt.NDArray[np.float32]
#: Reflectance of one nominal solid hit of white over black.
WHITE_HIT = 0.7
#: Share of light that nominal varnish takes from what a surface gives back by itself.
SHINE = 0.006
#: Millimetres over which the laydown of a machine goes up and down.
WAVES = 40.0


@dataclass(frozen=True, eq=False)
class TrueInks:
    """Figures of one machine; light is linear sRGB.

    Attributes
    ----------
    through : what one solid film of each process ink lets through, float32 (3,)
    gain : area that a dot of half coverage covers more, as light by day sees it, by ink
    dots : how much of that gain is the dot itself, which light from behind sees too
    white, blackout : what one solid hit reflects and lets through, float32 (3,) each
    white_gain : gain of white's dots
    shine : light that varnish takes from the surface; less than 0 is given to it by matt varnish
    uneven : how far the laydown goes up and down over the bed, as a share of itself
    seed : of the unevenness
    """

    through: dict[str, Band3]
    gain: dict[str, float]
    dots: float = 0.5
    white: tuple[Band3, Band3] = field(
        default_factory=lambda: (_even(WHITE_HIT), _even(1.0 - WHITE_HIT))
    )
    blackout: tuple[Band3, Band3] = field(default_factory=lambda: (_even(0.015), _even(0.05)))
    white_gain: float = 0.0
    shine: float = SHINE
    uneven: float = 0.0
    seed: int = 0

    def area(self, ink: str, plate: Coverage, *, lit: bool = False) -> Coverage:
        """How much of the area an ink covers, for light by day or from behind.

        Parameters
        ----------
        ink : its name in lower case
        plate : coverage as it was sent, float32 (h, w)
        lit : by light from behind
        """
        gain = self.white_gain if ink == "white" else self.gain.get(ink, 0.0)
        gain *= self.dots if lit else 1.0
        return np.asarray(plate + 4.0 * gain * plate * (1.0 - plate), np.float32)

    def uneven_field(self, shape: tuple[int, int], scale: float, print_: int) -> Coverage | None:
        """The factor of the laydown over the bed, float32 (h, w); None where it is even.

        Parameters
        ----------
        shape : rows and columns
        scale : pixels to the mm
        print_ : number of the film since the machine was built
        """
        if not self.uneven:
            return None
        rng = np.random.default_rng((self.seed, print_))
        high, wide = (max(2, round(side / scale / WAVES) + 2) for side in shape)
        coarse = rng.normal(0.0, self.uneven, (high, wide)).astype(np.float32)
        smooth = cv2.resize(coarse, (shape[1], shape[0]), interpolation=cv2.INTER_CUBIC)
        return np.asarray(1.0 + smooth, np.float32)


def _even(level: float) -> Band3:
    return np.full(3, level, np.float32)


@lru_cache(maxsize=8)
def true_inks(seed: int = 0, drift: float = 0.0) -> TrueInks:
    """The inks of a machine: nominal for 0, others for other numbers.

    Parameters
    ----------
    seed : number of the machine
    drift : how far it has gone since it was set up, 0 to 1: less cyan, more gain, yellower white
    """
    rng = np.random.default_rng(seed)
    own = 0.0 if seed == 0 else 1.0

    def about(value: float, spread: float) -> float:
        return value + own * float(rng.uniform(-spread, spread))

    inks: dict[str, InkKind] = {}
    gain = {}
    for name, ink in nominal_inks().items():
        strength = about(1.0, 0.3) * (1.0 - (0.25 if name == "cyan" else 0.08) * drift)
        inks[name] = ink.shifted(about(0.0, 14.0), strength, about(0.03, 0.03) * own)
        gain[name] = about(DOT_GAIN, 0.09) + 0.08 * drift
    contrast = about(WHITE_HIT, 0.13)
    lost = own * float(rng.uniform(0.005, 0.02))
    tint = own * rng.uniform(-0.03, 0.03, 3) - drift * np.array((0.0, 0.0, 0.06))
    reflected = np.clip(contrast + tint, 0.0, 1.0).astype(np.float32)
    through = np.clip(1.0 - lost - reflected, 0.0, 1.0).astype(np.float32)
    return TrueInks(
        through={name: film.astype(np.float32) for name, film in solid_films(inks).items()},
        gain=gain,
        dots=about(0.5, 0.2),
        white=(reflected, through),
        white_gain=own * float(rng.uniform(0.02, 0.08)) + 0.02 * drift,
        shine=SHINE if seed == 0 else float(rng.uniform(0.004, 0.009)),
        uneven=0.004 * own,
        seed=seed,
    )
