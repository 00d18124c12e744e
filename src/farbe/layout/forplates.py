"""A print without all that its plates do not depend on: what pictures and surveys are kept by."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import lru_cache

from farbe.layout.faced import Faced
from farbe.layout.prints import PocketPrint, one_print
from farbe.model.face import Face, SamePrint
from farbe.model.jig import Cutting, Guide
from farbe.model.job import Job
from farbe.model.marks import Marks
from farbe.model.medium import Bed
from farbe.model.piece import Rectangle
from farbe.model.placing import Placing
from farbe.model.running import Prices, Running
from farbe.model.text import Serial


@dataclass(frozen=True)
class PrintForPlates:
    """What one place prints, and the job without contents that prints it.

    Two that are equal have equal plates, whatever else is said of their jobs.
    """

    base: Faced
    what: PocketPrint

    @property
    def job(self) -> Faced:
        """The job as if all its pockets printed this."""
        return one_print(self.base, self.what)


def print_for_plates(job: Faced, what: PocketPrint) -> PrintForPlates:
    """What a place of a job prints, to be kept by.

    Parameters
    ----------
    job : as one of its faces has it
    what : a print of it
    """
    base = _without_contents(job)
    return PrintForPlates(base if what.turned is None else _shapeless(base), _uncounted(what))


def _uncounted(what: PocketPrint) -> PocketPrint:
    """A print that does not tell how often it is wanted."""
    art, other = what.artwork, what.opposite
    if art is not None and art.quantity is not None:
        what = replace(what, artwork=art.model_copy(update={"quantity": None}))
    return what if other is None else replace(what, opposite=_uncounted(other))


def _bare(face: Face) -> Face:
    return face.model_copy(
        update={
            "artworks": (), "placing": Placing(), "texts": (), "changes": (), "table": None,
            "serial": Serial(), "artwork_column": None, "parts": None, "correction": None,
        }
    )  # fmt: skip


@lru_cache(maxsize=16)
def _shapeless(base: Faced) -> Faced:
    """Without the shape of the piece: on film each print has that of its artwork."""
    piece = base.job.piece.model_copy(update={"shape": Rectangle(width=1.0, height=1.0)})
    return _same(Faced(base.job.model_copy(update={"piece": piece}), base.number))


@lru_cache(maxsize=16)
def _without_contents(of: Faced) -> Faced:
    """A job without its contents, and all that no plate depends on."""
    job = of.job
    faces = tuple(_bare(face) for face in job.faces)
    kept = isinstance(job.comes_up, SamePrint)
    printer = job.printer.model_copy(
        update={"name": "", "modes": (), "passes": 1, "speed": 1.0, "turn": 0.0, "swath": 1.0}
    )
    inks = tuple(ink.model_copy(update={"price": 0.0}) for ink in printer.inks)
    fitting = of.condition
    nameless = {
        "name": "-",
        "printer": "",
        "mode": "",
        "when": None,
        "trueness": None,
        "drifts": (),
    }
    conditions = () if fitting is None else (fitting.model_copy(update=nameless),)
    jig = job.jig.model_copy(
        update={"name": "", "rows": 1, "columns": 1, "first_x": 0.0, "first_y": 0.0,
                "first_only": None, "off": frozenset(), "keep_outs": (), "gap_x": 0.0,
                "gap_y": 0.0, "places": (), "kinds": (), "kind": 0}
    )  # fmt: skip
    made: Job = job.model_copy(
        update={
            "name": "", "made_guide": None, "load": 0, "order": "", "picks": (),
            "faces": faces if kept else (faces[of.number],),
            "comes_up": job.comes_up if kept else None,
            "piece": job.piece if kept else of.piece,
            "printer": printer.model_copy(update={"inks": inks, "conditions": conditions}),
            "jig": jig, "medium": Bed(), "garments": (), "marks": Marks(), "guide": Guide(),
            "running": Running(), "prices": Prices(), "accepted": (), "cutting": Cutting(),
            "receiver": job.receiver.model_copy(update={"name": ""}),
        }
    )  # fmt: skip
    # Equal ones are one and the same, so that they are compared in no time.
    return _same(Faced(made, of.number if kept else 0))


@lru_cache(maxsize=64)
def _same(base: Faced) -> Faced:
    return base
