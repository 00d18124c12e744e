"""What a check finds, and what checks look at."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace

from farbe.art.artwork import Stated
from farbe.checks.weight import Weight
from farbe.kept import once
from farbe.layout.faced import Faced
from farbe.layout.frame import sampling_grid
from farbe.layout.laid import allotted, first_print
from farbe.layout.prints import one_print
from farbe.mishap import Mishap, guarded
from farbe.model.base import BadInput
from farbe.model.medium import MediumValue
from farbe.optics.white import white_difference
from farbe.plan.stations import Station
from farbe.render.raster import Cancelled, Report, unwatched
from farbe.render.sources import Sources
from farbe.said import say
from farbe.separate.grid import Grid
from farbe.survey.prints import PrintSurvey, surveys


@dataclass(frozen=True)
class Fix:
    """What would mend a finding: its words, and the mended job from a job.

    Attributes
    ----------
    words : what it does
    mend : a function of a module, or a ``partial`` of one: findings may come from another process,
        which knows it by its name
    is_long : it needs pixels, and whoever draws a window should not wait for it
    """

    words: str
    mend: Callable[[Faced], Faced]
    is_long: bool = False


def with_part(job: Faced, part: str, **fields: object) -> Faced:
    """A job with other values in one of its parts; for fixes.

    Parameters
    ----------
    job : as one of its faces has it
    part : name of the job's field
    **fields : new values of that part, by their names
    """
    return job.replace(**{part: getattr(job, part).replace(**fields)})


def without_pockets(job: Faced, pockets: frozenset[int]) -> Faced:
    """A job with some pockets switched off; for fixes.

    Parameters
    ----------
    job : as one of its faces has it
    pockets : their numbers
    """
    return with_part(job, "jig", off=job.jig.off | pockets)


@dataclass(frozen=True)
class CheckPlace:
    """Where something is the matter: a pocket that prints it, a box in mm around the piece's
    middle, y up, as the reader of a face sees it, and where most of it is."""

    pocket: int
    left: float
    bottom: float
    width: float
    height: float
    x: float
    y: float
    face: int = 0


@dataclass(frozen=True)
class Check:
    """One finding.

    Attributes
    ----------
    code : names it for scripts
    mishap : the check itself failed
    figure, unit : how much; more is worse
    places : the worst ones
    count : different prints of which it is true
    about : the layer that it is about, if it is about one
    face : number of the face on which it was found
    accepted : the operator said that it is meant, and it got no worse
    """

    code: str
    weight: Weight
    text: str
    station: Station
    fix: Fix | None = None
    mishap: Mishap | None = None
    figure: float | None = None
    unit: str = ""
    places: tuple[CheckPlace, ...] = ()
    count: int = 1
    about: str = ""
    face: int = 0
    accepted: bool = False


@dataclass(frozen=True, eq=False)
class Facts:
    """A job and what is worked out from it once for all checks.

    What is said of the artwork is about the job's first one; see :meth:`each_print`.
    """

    job: Faced
    sources: Sources
    exact: bool = True
    report: Report = unwatched
    #: Asked between two checks; may raise Cancelled.
    go_on: Callable[[], object] = lambda: None

    @once
    def surveys(self) -> tuple[PrintSurvey, ...]:
        """What a look at each different print found."""
        return surveys(self.job, self.sources, self.report, exact=self.exact)

    @once
    def white_difference(self) -> float:
        """CIEDE2000 between the bare surface and white ink on it, as the reader sees them."""
        return white_difference(self.job, self.sources.profile(self.job))

    def each_print(self) -> Iterator[Facts]:
        """The job as if all pockets printed the same, for all that they print, without texts."""
        plain = dict.fromkeys(what.plain for what in allotted(self.job).prints.values())
        for what in plain or [first_print(self.job)]:
            yield Facts(one_print(self.job, what), self.sources, self.exact)

    @once
    def stated(self) -> Stated | None:
        """What is known of the job's first artwork, if it has one."""
        art = self.job.artwork
        return None if art is None else self.sources.stated(art, self.job)

    @once
    def grid(self) -> Grid:
        return sampling_grid(self.job)


Ask = Callable[[Facts], Iterator[Check]]


@dataclass(frozen=True)
class Rule:
    """One check.

    Attributes
    ----------
    codes : of all that it can find
    on : the medium that it is made for; None for all
    each_print : it is made on each different print; a fix is made on the whole job
    ask : the findings about a job
    """

    codes: tuple[str, ...]
    on: type[MediumValue] | None
    each_print: bool
    ask: Ask

    @property
    def words(self) -> str:
        """What it looks at, as the beginning of a sentence."""
        about = (self.ask.__doc__ or "").strip().split("\n")[0].rstrip(".")
        return say("The check “{about}”", about=about)

    def made_of(self, job: Faced) -> bool:
        """Whether it is made of a job.

        Parameters
        ----------
        job : as one of its faces has it
        """
        return self.on is None or isinstance(job.job.medium, self.on)


#: Findings of one kind that are still told one by one.
MOST_ALIKE = 3
RULES: list[Rule] = []


def rule(
    *codes: str, on: type[MediumValue] | None = None, each_print: bool = False
) -> Callable[[Ask], Ask]:
    """Enter a check with the codes of what it can find; see :class:`Rule`. Used as a decorator.

    Parameters
    ----------
    *codes : of all that the check can find
    on : the one medium that it looks at; all, if not given
    each_print : whether it sees each different print instead of the job

    Returns
    -------
    The decorator, which gives the check back as it is.

    Raises
    ------
    TypeError
        If it names no code or one that another check has, or does not say what it looks at.
    """

    def enter(ask: Ask) -> Ask:
        if not codes:
            raise TypeError(f"the check {ask.__name__} names nothing that it can find")
        taken = {code for known in RULES for code in known.codes} & set(codes)
        if taken:
            raise TypeError(f"another check finds {min(taken)!r} already")
        if not ask.__doc__:
            raise TypeError(f"the check {ask.__name__} does not say what it looks at")
        RULES.append(Rule(codes, on, each_print, ask))
        return ask

    return enter


def findings(facts: Facts) -> list[Check]:
    """What all rules find about a face; what several prints have in common is said once.

    A rule that fails is a stop of its own and does not silence the others.

    Parameters
    ----------
    facts : a face of a job, with what was found of it
    """
    facts.sources.read_ahead(facts.job.artworks, facts.job, facts.go_on)
    prints: list[Facts] = []

    def asked(one: Rule) -> list[Check]:
        if one.each_print and not prints:
            prints.extend(facts.each_print())
        return [check for of in (prints if one.each_print else [facts]) for check in one.ask(of)]

    found: list[Check] = []
    # Those of the whole job come first.
    for one in sorted(RULES, key=lambda known: known.each_print):
        if not one.made_of(facts.job):
            continue
        facts.go_on()
        try:
            outcome = guarded(
                one.words, lambda one=one: asked(one), let=(BadInput, Cancelled)  # type: ignore[misc]
            )  # fmt: skip
        except BadInput as error:
            # A file that cannot be read is said once, whoever meets it.
            found.append(Check("cannot-be-read", Weight.STOP, str(error), Station.PIECE))
            continue
        if outcome.mishap is not None:
            words = outcome.mishap.sentence
            found.append(Check("check-failed", Weight.STOP, words, Station.RUN,
                               mishap=outcome.mishap))  # fmt: skip
        found += outcome.made or []
    return _said_once(found)


def _said_once(found: list[Check]) -> list[Check]:
    """One thing is one finding: what is true of many prints says of how many."""
    together: dict[tuple[str, str, Weight], list[Check]] = {}
    for check in found:
        together.setdefault((check.code, check.about, check.weight), []).append(check)
    said = []
    for alike in together.values():
        first, texts = alike[0], dict.fromkeys(check.text for check in alike)
        if len(texts) > MOST_ALIKE:
            first = replace(
                first,
                count=len(texts),
                text=f"{first.text.rstrip('.')}; and so for {len(texts) - 1} others.",
            )
            said.append(first)  # fmt: skip
        else:
            said += {check.text: check for check in alike}.values()
    return said
