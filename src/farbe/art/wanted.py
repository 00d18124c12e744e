"""What is wanted of a file, and how its colours become ink where the file's reader does that."""

from __future__ import annotations

import json
from dataclasses import dataclass, field
from pathlib import Path

from farbe.art.profiles import shipped_profile
from farbe.model.artwork import PageBox
from farbe.model.job import Conversion, Intent, Numbers

_PROFILE = "output.icc"


@dataclass(frozen=True)
class InkWork:
    """How the colours of a page become ink that is read as plates.

    Transparent objects in different spaces are mixed as ink, so this cannot come later.

    Attributes
    ----------
    profile : the printer's CMYK profile, ICC bytes
    conversion : intents, their mixture, black point, and what becomes of CMYK numbers
    """

    profile: bytes
    conversion: Conversion = field(default_factory=Conversion)

    @staticmethod
    def of(profile: bytes, conversion: Conversion) -> InkWork:
        """Only what changes a page's plates, so that other edits read nothing anew.

        Parameters
        ----------
        profile : ICC bytes
        conversion : of a job
        """
        mixed = conversion.flat > 0 and conversion.flat_intent is not conversion.intent
        return InkWork(profile, Conversion(
            intent=conversion.intent,
            flat_intent=conversion.flat_intent if mixed else conversion.intent,
            flat=conversion.flat if mixed else 0.0,
            black_point=conversion.black_point, numbers=conversion.numbers,
        ))  # fmt: skip

    @property
    def parts(self) -> tuple[tuple[Intent, float], ...]:
        """Rendering intents and their shares, which add up to 1."""
        share = self.conversion.flat / 100.0
        both = ((self.conversion.intent, 1.0 - share), (self.conversion.flat_intent, share))
        return tuple((intent, part) for intent, part in both if part > 0)

    @property
    def keeps(self) -> bool:
        """Whether CMYK numbers stay, whatever profile comes with them."""
        return self.conversion.numbers is Numbers.KEEP


@dataclass(frozen=True)
class Wanted:
    """What is wanted of a file.

    Attributes
    ----------
    page : of a PDF or TIFF, from 1
    box : of a PDF page
    groups : of an SVG, and layers of a PDF, by name, that are read as plates
    layers : of a PDF, by name, that are switched otherwise than the file has them
    under : inks of a PDF, besides those whose names tell it, that reach under what lies above them
    whole : inks of a PDF whose plates are taken without what lies above them
    work : None takes the shipped profile
    """

    page: int = 1
    box: PageBox = PageBox.TRIM
    groups: tuple[str, ...] = ()
    layers: tuple[tuple[str, bool], ...] = ()
    under: tuple[str, ...] = ()
    whole: tuple[str, ...] = ()
    work: InkWork | None = None

    def words(self, folder: Path) -> str:
        """All of it as one word for another process; the profile is put into a folder.

        Parameters
        ----------
        folder : where the other process finds it
        """
        work = self.work or InkWork(shipped_profile())
        (folder / _PROFILE).write_bytes(work.profile)
        return json.dumps([
            self.page, self.box.value, self.groups, self.layers, self.under, self.whole,
            work.conversion.model_dump(mode="json"),
        ])  # fmt: skip

    @staticmethod
    def read(words: str, folder: Path) -> Wanted:
        """The inverse of :meth:`words`.

        Parameters
        ----------
        words : as they were given
        folder : where the profile is
        """
        page, box, groups, layers, under, whole, conversion = json.loads(words)
        work = InkWork(profile_in(folder).read_bytes(), Conversion.model_validate(conversion))
        switched = tuple((str(name), bool(on)) for name, on in layers)
        return Wanted(page, PageBox(box), tuple(groups), switched, tuple(under), tuple(whole), work)


def profile_in(folder: Path) -> Path:
    """Where :meth:`Wanted.words` put the printer's profile.

    Parameters
    ----------
    folder : the reader's own
    """
    return folder / _PROFILE
