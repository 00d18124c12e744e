"""From readings of a chart to a condition of the printer."""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from datetime import date

import numpy as np

from farbe.colour.lab import difference, lab_of_light, light_of_lab
from farbe.files.reference import Reference
from farbe.measure.curves import curve_of, enough, looks_of, tones_by_area, tones_by_look, wanted_of
from farbe.measure.films import Ground, Measured, fitted_films, ground_of
from farbe.measure.match import matched
from farbe.measure.profile import Detail, made_profile
from farbe.measure.readings import Readings
from farbe.model.base import BadInput
from farbe.model.condition import (
    USUAL_SHINE,
    Condition,
    Gloss,
    InkCurve,
    Origin,
    Trueness,
)
from farbe.model.patch import Base, Patch
from farbe.model.piece import Material, Reader
from farbe.model.printer import LayerKind, Printer
from farbe.optics.inks import substrate
from farbe.optics.patches import Floats, predicted
from farbe.said import say

#: CIE76 that is left of the films, from which on they do not explain what was read.
FILMS_OFF = 3.0
Report = Callable[[float], None]


@dataclass(frozen=True)
class Wishes:
    """How a condition is made.

    Attributes
    ----------
    name, when : of the condition
    linear : inks get curves that make their tones even
    profile : a profile is made; else the one that is used is kept and judged
    detail : of the profile
    judged : SHA-256 of the profile that is judged where none is made; None is what the condition
        had, or the one that ships
    """

    name: str
    when: date
    linear: bool = True
    profile: bool = True
    detail: Detail = Detail.MEDIUM
    judged: str | None = None


@dataclass(frozen=True, eq=False)
class Taught:
    """A condition and what it was made from.

    Attributes
    ----------
    condition : its profiles are named by their digests
    profiles : ICC bytes of those, by digest
    said : what was found on the way, one sentence each
    before : how true predictions were before, on all colours
    measured, lit : what was read, by day and by light from behind
    """

    condition: Condition
    profiles: dict[str, bytes]
    said: tuple[str, ...]
    before: Trueness
    measured: Measured
    lit: Measured | None


def taught(
    reference: Reference,
    readings: Sequence[Readings],
    printer: Printer,
    profile: bytes,
    wishes: Wishes,
    *,
    lit: Sequence[Readings] = (),
    before: Condition | None = None,
    report: Report = lambda _: None,
) -> Taught:
    """The condition that follows from readings of a chart.

    Parameters
    ----------
    reference : of the chart
    readings : of its prints by day, at least one
    printer : that printed it
    profile : its CMYK profile until now, ICC bytes
    wishes : how it is made
    lit : readings by light from behind, of a piece that lets it through
    before : its condition until now; what was not measured is kept from it
    report : is told how far it is, 0 to 1; what it raises ends the work

    Raises
    ------
    BadInput
        If the readings do not fit the chart, or the chart is of another printer.
    """
    if set(reference.inks) != {ink.name for ink in printer.inks}:
        raise BadInput(
            say("The chart was printed with the inks {theirs}, and {printer} has {own}; choose the "
                "printer that printed it.",
                theirs=", ".join(reference.inks), printer=printer.name,
                own=", ".join(ink.name for ink in printer.inks))
        )  # fmt: skip
    found = matched(reference, readings)
    day = Measured(reference.patches, looks_of(found.xyz))
    said = list(found.said)
    behind, ground = None, ground_of(day, reference.surface, reference.reader)
    if lit:
        asked = replace(reference, expected=_expected_lit(reference, printer, profile))
        through = matched(asked, lit)
        behind, said = Measured(reference.patches, looks_of(through.xyz)), [*said, *through.said]
    work = _Work(reference, printer, ground, day, behind, wishes)
    return work.done(profile, before, said, report)


def _expected_lit(reference: Reference, printer: Printer, profile: bytes) -> Floats:
    return predicted(reference.patches, printer, reference.surface, reference.reader, profile,
                     by_lamp=True)  # fmt: skip


@dataclass(frozen=True, eq=False)
class _Work:
    """What a condition is made from."""

    reference: Reference
    printer: Printer
    ground: Ground
    day: Measured
    lit: Measured | None
    wishes: Wishes

    def done(
        self, profile: bytes, before: Condition | None, said: list[str], report: Report
    ) -> Taught:
        """The condition, and how true it is."""
        old = self.judged(profile, before, kept_out=False)
        films, left = fitted_films(self.day, self.printer, self.ground, self.reference.reader)
        if left > FILMS_OFF:
            said.append(
                say("Films explain what was read only to {left} ΔE on the mean; look at the print.",
                    left=f"{left:.1f}")
            )  # fmt: skip
        curves = self.curves() if self.wishes.linear else ()
        each, total = self.limits(curves)
        gloss, shine = self.gloss()
        condition = Condition(
            name=self.wishes.name, mode=self.reference.mode,
            surfaces=(self.reference.surface.material,),
            inks=tuple(ink.name for ink in self.printer.inks), origin=Origin.MEASURED,
            when=self.wishes.when, mode_laydown=self.reference.laydown, films=films,
            curves=curves, each=each, total=total, gloss=gloss, shine=shine,
            **_kept(before),
        )  # fmt: skip
        profiles: dict[str, bytes] = {}
        if self.wishes.profile:
            condition, profiles = self._with_profiles(condition, report)
        else:
            condition = condition.replace(
                curves=() if before is None else before.curves,
                profile=self.wishes.judged or (None if before is None else before.profile),
                lit=None if before is None else before.lit,
            )
        chosen = profiles.get(condition.profile or "", profile)
        true = self.judged(chosen, condition)
        return Taught(
            condition.replace(trueness=true), profiles, tuple(said), old, self.day, self.lit
        )

    def _with_profiles(
        self, condition: Condition, report: Report
    ) -> tuple[Condition, dict[str, bytes]]:
        share = 0.9 if self.lit is None else 0.7
        made = self._profile(self.day, condition, both_ways=True,
                             report=lambda done: report(share * done))  # fmt: skip
        profiles = {_digest(made): made}
        condition = condition.replace(profile=_digest(made))
        if self.lit is not None:
            rest = 0.95 - share
            lit = self._profile(self.lit, condition, both_ways=False,
                                report=lambda done: report(share + rest * done))  # fmt: skip
            profiles[_digest(lit)] = lit
            condition = condition.replace(lit=_digest(lit))
        return condition, profiles

    def _profile(
        self, measured: Measured, condition: Condition, *, both_ways: bool, report: Report
    ) -> bytes:
        """A profile of the colours that are not kept out, told as they are wanted."""
        white = self.reference.white
        part = measured.where(lambda p: p.is_colour and p.white == white and not p.kept_out)
        sent = np.array([patch.inks for patch in part.patches])
        lab = part.lab if measured is self.lit else self._without_piece(part.lab)
        names = [ink.name for ink in self.printer.inks_of(LayerKind.COLOUR)]
        inks = np.column_stack(
            [wanted_of(condition.curve(name), sent[:, at]) for at, name in enumerate(names)]
        )
        return made_profile(
            inks, lab, condition.name, total=condition.total, detail=self.wishes.detail,
            both_ways=both_ways, report=report,
        )  # fmt: skip

    def _without_piece(self, lab: Floats) -> Floats:
        """What was read without the clear piece in front, which predictions add by themselves."""
        surface = self.reference.surface
        if self.reference.reader is not Reader.THROUGH or surface.material is not Material.CLEAR:
            return lab
        piece = substrate(surface).films[0]
        front, twice = float(piece.front), float(piece.through) ** 2
        seen = light_of_lab(lab) - front
        return lab_of_light(seen / (twice + front * seen))

    def curves(self) -> tuple[InkCurve, ...]:
        """A curve for each ink that has a ramp."""
        found = []
        for at, ink in enumerate(self.printer.inks_of(LayerKind.COLOUR)):
            sent, looks, paper = self._ramp(at)
            if paper is not None and len(sent) > 2:
                found.append(curve_of(ink.name, sent, tones_by_look(paper, looks)))
        white = self.printer.inks_of(LayerKind.WHITE)
        ramp = self.day.where(
            lambda p: p.white == 1 and p.base is Base.BLACK and p.total == 0 and not p.named
        )
        bare = self.day.mean(lambda p: p == Patch(base=Base.BLACK))
        if white and bare is not None and len(ramp.patches) > 2:
            sent, looks = _steps([p.level for p in ramp.patches], ramp.lab)
            found.append(curve_of(white[0].name, sent, tones_by_area(bare, looks)))
        for name in sorted({p.named for p in self.day.patches if p.named}):
            ramp = self.day.where(lambda p, n=name: p.named == n and p.base is Base.WHITE)  # type: ignore[misc]
            ground = self.day.mean(lambda p: p == Patch(base=Base.WHITE))
            if ground is not None and len(ramp.patches) > 2:
                sent, looks = _steps([p.amount for p in ramp.patches], ramp.lab)
                found.append(curve_of(name, sent, tones_by_area(ground, looks)))
        return tuple(found)

    def _ramp(self, ink: int) -> tuple[list[float], Floats, Floats | None]:
        """Percents of a process ink alone, what they look like, and the bare white."""
        white = self.reference.white
        paper = self.day.mean(lambda p: p == Patch(white=white))
        ramp = self.day.where(
            lambda p: (
                p.is_colour
                and p.white == white
                and p.total > 0
                and p.total == p.inks[ink]
                and not p.kept_out
            )
        )
        sent, looks = _steps([p.inks[ink] for p in ramp.patches], ramp.lab)
        return sent, looks, paper

    def limits(self, curves: Sequence[InkCurve]) -> tuple[tuple[float, float, float, float], float]:
        """Most of each process ink and of all, in percent: where more stops to matter."""
        each = []
        for at in range(4):
            sent, looks, _ = self._ramp(at)
            each.append(enough(sent, looks) if sent else 100.0)
        white = self.reference.white
        dark = self.day.where(
            lambda p: (
                p.is_colour
                and p.white == white
                and p.inks[0] == p.inks[1] == p.inks[2]
                and (p.inks[3] == 100.0 or (p.inks[3] == 0.0 and p.total > 0))
            )
        )
        sent, looks = _steps([p.total for p in dark.patches], dark.lab)
        total = max(200.0, enough(sent, looks)) if sent else 400.0
        return (each[0], each[1], each[2], each[3]), total

    def gloss(self) -> tuple[Gloss, float]:
        """What the varnish does to black, and to how much of all light."""
        white = self.reference.white
        plain = self.day.mean(lambda p: p == Patch(inks=(0, 0, 0, 100), white=white))
        varnished = self.day.mean(lambda p: p.varnish and p.inks == (0, 0, 0, 100))
        if plain is None or varnished is None:
            return Gloss.GLOSSY, USUAL_SHINE
        bare, glossy = (float(light_of_lab(lab)[1]) for lab in (plain, varnished))
        if glossy > bare:
            return Gloss.MATT, round(min(0.2, (glossy - bare) / (1.0 - bare)), 4)
        return Gloss.GLOSSY, round(min(0.2, max(0.0, (bare - glossy) / (1.0 - glossy))), 4)

    def judged(
        self, profile: bytes, condition: Condition | None, *, kept_out: bool = True
    ) -> Trueness:
        """How far predictions are from what was read of colours by day.

        Parameters
        ----------
        profile : ICC bytes
        condition : that predictions follow
        kept_out : only colours that nothing was made from
        """
        part = self.day.where(lambda p: p.is_colour and (p.kept_out or not kept_out))
        if not part.patches:
            raise BadInput(say("Nothing was read of the colours that judge; read the chart again."))
        made = predicted(
            part.patches, self.printer, self.ground.surface, self.reference.reader, profile,
            condition=condition, behind=self.ground.behind,
        )  # fmt: skip
        return trueness(made, part.lab)


def trueness(made: Floats, read: Floats) -> Trueness:
    """How far predictions are from readings, CIEDE2000.

    Parameters
    ----------
    made, read : CIE L*a*b*, (n, 3)
    """
    far = difference(made, read)
    return Trueness(
        patches=len(far), mean=round(float(far.mean()), 3),
        most=round(float(np.quantile(far, 0.95)), 3), worst=round(float(far.max()), 3),
    )  # fmt: skip


def _kept(before: Condition | None) -> dict[str, object]:
    """What no chart tells."""
    if before is None:
        return {}
    names = ("most_film", "laydown", "leasts", "misregister", "drifts")
    return {name: getattr(before, name) for name in names}


def _steps(sent: Sequence[float], lab: Floats) -> tuple[list[float], Floats]:
    """Steps of a ramp in rising order, what was sent twice on the mean."""
    levels = sorted(set(sent))
    given = np.array(sent)
    if not levels:
        return [], np.empty((0, 3))
    return levels, np.array([lab[given == level].mean(axis=0) for level in levels])


def _digest(content: bytes) -> str:
    return hashlib.sha256(content).hexdigest()
