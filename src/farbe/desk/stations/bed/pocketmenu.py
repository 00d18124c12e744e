"""What can be done with a pocket or a keep-out where it is clicked."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QMenu

from farbe.desk.handout import POCKET_MIME
from farbe.desk.session import Session
from farbe.edits import bed as bed_edits
from farbe.edits import places as place_edits
from farbe.layout.bedframe import from_bed
from farbe.model.placing import PocketChange
from farbe.said import say

if TYPE_CHECKING:
    from farbe.desk.stations.bed.canvas import BedCanvas


def fill_menu(canvas: BedCanvas, session: Session, menu: QMenu, place: QPointF) -> None:
    """Fill the menu of a place of the bed, in mm; what is there is chosen with it."""
    job, pocket, keep_out = session.job, canvas.pocket_at(place), canvas.keep_out_at(place)
    if job is None:
        return
    if keep_out is not None:
        canvas.choose(canvas.chosen, keep_out=keep_out)
        menu.addAction(
            say("Remove this keep-out"), lambda: bed_edits.remove_keep_out(session, keep_out)
        )
        return
    if pocket is None:
        if job.jig.places:
            at = from_bed(job.jig.datum, job.printer, place.x(), place.y())
            menu.addAction(say("Add a pocket here"), lambda: place_edits.add_place(session, at))
        return
    if pocket.number not in canvas.selected:
        canvas.choose(pocket.number)
    chosen = canvas.selected
    on = say("Switch on") if chosen <= job.jig.off else say("Switch off")
    menu.addAction(on, lambda: bed_edits.switch_pockets(session, chosen))
    prints = menu.addMenu(say("Print here"))
    for art in job.artworks:
        give = partial(bed_edits.give_artwork, session, chosen, art.key)
        prints.addAction(art.file_name, give)
    prints.setEnabled(bool(job.artworks))
    menu.addAction(say("Copy what is set apart"), canvas.copy)
    paste = menu.addAction(say("Set apart as copied"), canvas.paste)
    there = QGuiApplication.clipboard().mimeData()
    paste.setEnabled(there is not None and there.hasFormat(POCKET_MIME))
    plain = menu.addAction(
        say("Print as all do"),
        lambda: bed_edits.set_apart(session, chosen, PocketChange(pocket=1)),
    )
    plain.setEnabled(any(change.pocket in chosen for change in job.changes))
    menu.addSeparator()
    menu.addAction(
        say("They failed: print them again"), lambda: canvas.wanted_again.emit(sorted(chosen))
    )
    if job.jig.places:
        menu.addAction(
            say("Turn by {degrees}°", degrees=90),
            lambda: place_edits.turn_places(session, chosen, 90),
        )
        menu.addAction(
            say("Take the pocket away"), lambda: place_edits.remove_places(session, chosen)
        )
