"""Checks of what differs from pocket to pocket: artworks, texts, measured places, sides."""

from __future__ import annotations

import datetime
from collections.abc import Iterator
from functools import partial

from shapely import affinity

from farbe.checks.check import Check, Facts, Fix, rule, without_pockets
from farbe.checks.weight import Weight
from farbe.layout.carrier import carrier_of
from farbe.layout.correction import Fitted, in_words
from farbe.layout.faced import Faced
from farbe.layout.figures import measure
from farbe.layout.laid import allotted, laid
from farbe.layout.lettering import fields, in_one_line, type_size
from farbe.layout.loads import count_loads, load_words, rows_of_load
from farbe.layout.prints import lacking_files
from farbe.layout.sides import needs_own_guide
from farbe.model.base import BadInput
from farbe.model.medium import Bed
from farbe.model.text import SERIAL, TextFit, TypeFace
from farbe.plan.order import layer_for_ink
from farbe.plan.stations import Station
from farbe.render.marks import label_box
from farbe.said import inside, say, say_count, spoken
from farbe.separate.grid import Grid


def listed(numbers: tuple[int, ...]) -> str:
    """Pocket numbers in words, the first few.

    Parameters
    ----------
    numbers : of pockets, in any order
    """
    shown = ", ".join(str(n) for n in numbers[:4])
    more = say(" and {numbers} more", numbers=len(numbers) - 4) if len(numbers) > 4 else ""
    return say_count(
        len(numbers), "Pocket {shown}", "Pockets {shown}{more}", shown=shown, more=more
    )


@rule("pockets-missing", "pockets-empty", on=Bed)
def artworks_fill_pockets(facts: Facts) -> Iterator[Check]:
    """Every artwork finds its pockets, and every pocket an artwork."""
    found = allotted(facts.job)
    for artwork, over in found.missing:
        yield Check(
            "pockets-missing",
            Weight.CAUTION,
            say(
                "{over} × {file_name} find no pocket on this board; they need another run.",
                over=over,
                file_name=artwork.file_name,
            ),
            Station.BED,
        )
    if found.empty and facts.job.artworks:
        empty = frozenset(found.empty)
        yield Check(
            "pockets-empty",
            Weight.CAUTION,
            say_count(
                len(found.empty),
                "{pockets} gets no artwork: the quantities are used up.",
                "{pockets} get no artwork: the quantities are used up.",
                pockets=listed(found.empty),
            ),
            Station.BED,
            Fix(say("Switch off"), partial(without_pockets, pockets=frozenset(empty))),
        )


def _without_changes(job: Faced, pockets: frozenset[int]) -> Faced:
    kept = tuple(change for change in job.changes if change.pocket not in pockets)
    return job.replace(changes=kept)


@rule("change-idle")
def changes_have_pockets(facts: Facts) -> Iterator[Check]:
    """What is set apart is set apart for a pocket that is there."""
    job = facts.job
    there = {pocket.number for pocket in laid(job)}
    idle = tuple(change.pocket for change in job.changes if change.pocket not in there)
    if idle:
        yield Check(
            "change-idle",
            Weight.NOTE,
            say_count(
                len(idle),
                "{pockets} was set apart but is off or not there.",
                "{pockets} were set apart but are off or not there.",
                pockets=listed(idle),
            ),
            Station.BED,
            Fix(
                say("Forget it"),
                partial(_without_changes, pockets=frozenset(idle)),
            ),
        )


@rule("text-column")
def text_has_columns(facts: Facts) -> Iterator[Check]:
    """A text asks for columns that its table has."""
    job = facts.job
    known = {"#", SERIAL, *(job.table.columns if job.table else ())}
    wanted = dict.fromkeys(name for box in job.texts for name in fields(box.text))
    lost = [name for name in wanted if name not in known]
    if lost:
        there = ", ".join(job.table.columns) if job.table else say("no table is chosen")
        yield Check(
            "text-column",
            Weight.STOP,
            say(
                "The text asks for {{{lost}}}, but there is no such column ({there}).",
                lost=lost[0],
                there=there,
            ),
            Station.BED,
        )


@rule("rows-without-artwork")
def rows_have_their_artwork(facts: Facts) -> Iterator[Check]:
    """The files that a table names are there."""
    lacking = lacking_files(facts.job)
    if lacking:
        yield Check(
            "rows-without-artwork",
            Weight.STOP,
            say_count(
                len(lacking),
                "The table names {names}, which is not among the artwork; add it.",
                "The table names {count} files that are not among the artwork: {names}. Add them.",
                names=", ".join(lacking[:4]) + (" …" if len(lacking) > 4 else ""),
            ),
            Station.BED,
        )


@rule("parts-over", on=Bed)
def parts_suit_pockets(facts: Facts) -> Iterator[Check]:
    """All parts of an artwork lie on this load of the board."""
    job = facts.job
    loads = count_loads(job)
    if job.parts is not None and loads > 1:
        yield Check(
            "parts-over",
            Weight.CAUTION,
            say("{words} Adding the job to the queue adds all its loads.", words=load_words(job)),
            Station.BED,
        )


@rule("rows-over", "rows-missing")
def rows_suit_pockets(facts: Facts) -> Iterator[Check]:
    """There are as many rows as pockets."""
    job = facts.job
    used = laid(job)
    if job.table is None or job.parts is not None:
        return
    asked = {name for box in job.texts for name in fields(box.text)} | {job.artwork_column}
    if not asked & set(job.table.columns):
        return
    rows = len(job.table.rows)
    first, last = rows_of_load(job)
    if rows > len(used):
        yield Check(
            "rows-over",
            Weight.CAUTION,
            say(
                "{file_name} has {rows} rows for {used} pockets: this load prints rows {first} to "
                "{last}. Adding the job to the queue adds all its loads.",
                file_name=job.table.file_name,
                rows=rows,
                used=len(used),
                first=first,
                last=last,
            ),
            Station.BED,
        )
    elif rows < len(used):
        without = tuple(pocket.number for pocket in used[rows:])
        yield Check(
            "rows-missing",
            Weight.CAUTION,
            say_count(
                len(without),
                "{file_name} has {rows} rows for {used} pockets: {pockets} gets no text.",
                "{file_name} has {rows} rows for {used} pockets: {pockets} get no text.",
                file_name=job.table.file_name,
                rows=rows,
                used=len(used),
                pockets=inside(listed(without)),
            ),
            Station.BED,
        )


@rule("text-font")
def own_font_is_chosen(facts: Facts) -> Iterator[Check]:
    """Where a font file is asked for, one is chosen."""
    if any(box.face is TypeFace.OWN and box.font is None for box in facts.job.texts):
        yield Check(
            "text-font",
            Weight.STOP,
            say(
                "A text is to be set in a font file, but none is chosen; choose one or a "
                "shipped face."
            ),
            Station.BED,
        )


@rule("text-ink")
def text_has_its_ink(facts: Facts) -> Iterator[Check]:
    """Type in an ink of its own goes to a layer that prints it."""
    job = facts.job
    for box in job.texts:
        if box.ink is not None and box.text and layer_for_ink(job, box.ink) is None:
            there = any(ink.name == box.ink for ink in job.printer.inks)
            why = (
                say("no layer prints it")
                if there
                else say("{printer} has no such ink", printer=spoken(job.printer.name))
            )
            yield Check(
                "text-ink",
                Weight.STOP,
                say(
                    "The text “{box}” is to be printed in {ink} alone, and {why}. Add a layer for "
                    "it, or choose another ink.",
                    box=in_one_line(box.text),
                    ink=box.ink,
                    why=why,
                ),
                Station.BED,
                about=box.ink,
            )


@rule("text-letters", "text-wide")
def text_can_be_set(facts: Facts) -> Iterator[Check]:
    """The first pocket whose words the font lacks letters for, or whose box they leave."""
    lacking = wide = False
    for pocket, what in allotted(facts.job).prints.items():
        for box in what.texts:
            if box.code is not None:
                continue
            line = type_size(box, facts.sources.font(box))
            if line.missing and not lacking:
                lacking = True
                yield Check(
                    "text-letters",
                    Weight.STOP,
                    say(
                        "Pocket {pocket}: the font has no {missing} for “{box}”; choose "
                        "another font.",
                        pocket=pocket,
                        missing=" ".join(line.missing),
                        box=in_one_line(box.text),
                    ),
                    Station.BED,
                )
            if box.fit is TextFit.KEEP and line.width > box.width + 1e-9 and not wide:
                wide = True
                yield Check(
                    "text-wide",
                    Weight.CAUTION,
                    say(
                        "Pocket {pocket}: “{text}” is {width} wide, its box {room}; let it "
                        "shrink "
                        "or make the box wider.",
                        pocket=pocket,
                        text=in_one_line(box.text),
                        width=measure(line.width, 1),
                        room=measure(box.width, 1),
                    ),
                    Station.BED,
                )


@rule("corrected", "correction-wild", "correction-unclear")
def correction_holds(facts: Facts) -> Iterator[Check]:
    """Measured pockets agree, and can bear the correction that is asked for."""
    job = facts.job
    try:
        fitted = carrier_of(job).found(job)
    except BadInput as error:
        yield Check("correction-unclear", Weight.STOP, str(error), Station.BED,
                    Fix(say("Take it off"), partial(Faced.replace, correction=None)))  # fmt: skip
        return
    if not isinstance(fitted, Fitted):
        return
    if fitted.wild:
        wild = fitted.wild[0]
        yield Check(
            "correction-wild",
            Weight.CAUTION,
            say(
                "Measured pocket {wild} lies {residuals} off from where the others put it; "
                "measure it again.",
                wild=wild,
                residuals=measure(fitted.residuals[wild]),
            ),
            Station.BED,
        )
    yield Check(
        "corrected",
        Weight.NOTE,
        say("The artwork is {moved}, as measured.", moved=in_words(job, fitted)),
        Station.BED,
    )


@rule("label-on-pocket")
def label_has_room(facts: Facts) -> Iterator[Check]:
    """The label reaches into no pocket."""
    job = facts.job
    label = label_box(job, Grid(100, 100), datetime.date.today())
    if label is None:
        return
    under = tuple(
        pocket.number
        for pocket in laid(job)
        if label.intersects(affinity.translate(pocket.outline, pocket.x, pocket.y))
    )
    if under:
        yield Check(
            "label-on-pocket",
            Weight.CAUTION,
            say(
                "The label at the board's corner reaches into {under}; make it smaller or "
                "move the grid.",
                under=inside(listed(under)),
            ),
            Station.BED,
        )


@rule("guide-for-other-side")
def sides_meet(facts: Facts) -> Iterator[Check]:
    """Whether the second side needs a guide of its own."""
    job = facts.job
    turning = job.turning
    if turning is None or job.came_up is not None:
        return
    if needs_own_guide(job):
        yield Check(
            "guide-for-other-side",
            Weight.NOTE,
            say(
                "Turned {turn}, the outline is its mirror image: the other side gets a guide "
                "of its own.",
                turn=turning.turn.words,
            ),
            Station.BED,
        )
