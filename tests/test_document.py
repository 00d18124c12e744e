"""The open job without a window: faces, edits, undo, and what follows from edits."""

from __future__ import annotations

from pathlib import Path

import pytest

from conftest import behind, sided, small_art
from farbe.edits import stack as stack_edits
from farbe.edits.artwork import with_added, with_only
from farbe.edits.bed import both_sides, with_change
from farbe.edits.consequences import asks_for_more, settled, with_consequences
from farbe.edits.differences import differences
from farbe.edits.document import Document
from farbe.edits.film import on_roll, with_roll
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.faced import Faced, faces_of
from farbe.layout.rolls import is_laid
from farbe.model.base import BadInput
from farbe.model.face import Turn, Turning
from farbe.model.layer import BLACKOUT
from farbe.model.piece import Outline, Reader, Surface
from farbe.model.placing import Placing
from farbe.model.roll import SideOffset
from farbe.queue.watch import to_folder, watch

ELL = Outline(rings=(((-6, -4), (6, -4), (6, -1), (-2, -1), (-2, 4), (-6, 4)),))


def choked(job: Faced, name: str, by: float) -> Faced:
    return stack_edits.with_layer(job, name, lambda layer: stack_edits.with_choke(layer, by))


@pytest.fixture
def document(job: Faced) -> Document:
    """A job with white and blackout open."""
    opened = Document()
    black = BLACKOUT.replace(treatments=job.stack[0].treatments)
    opened.take(job.replace(stack=(job.stack[0], black, *job.stack[1:])).job, saved=True)
    return opened


def test_undo_is_told_by_the_value_that_changes(document: Document) -> None:
    """Two figures for the white in one action are one step; the blackout's is another."""
    start = document.job
    for name, by in (("White", 0.2), ("White", 0.3), ("Blackout", 0.4)):
        assert document.edit("Choke", lambda j, n=name, b=by: choked(j, n, b), joins=True)  # type: ignore[misc]
    document.undo()
    assert document.job is not None and document.job.stack[1].choke == start.stack[1].choke  # type: ignore[union-attr]
    assert document.job.stack[0].choke == pytest.approx(0.3)
    document.undo()
    assert document.job == start and document.undo_name is None
    document.redo(), document.redo()
    assert [la.choke for la in document.job.stack[:2]] == pytest.approx([0.3, 0.4])  # type: ignore[union-attr]


def test_an_action_ends(document: Document) -> None:
    for by in (0.2, 0.25):
        document.edit("Choke", lambda j, b=by: choked(j, "White", b), joins=True)  # type: ignore[misc]
    document.end_action()
    document.edit("Choke", lambda j: choked(j, "White", 0.5), joins=True)
    document.undo()
    assert document.job is not None and document.job.stack[0].choke == pytest.approx(0.25)
    # An edit that changes nothing is no step, and one that cannot be changes nothing.
    assert not document.edit("Same", lambda j: j)
    with pytest.raises(BadInput, match="same name"):
        document.edit("Bad", lambda j: j.replace(stack=(j.stack[0], j.stack[0])))
    assert document.undo_name == "Choke" and document.unsaved


def test_differences_are_ways_to_values(job: Faced) -> None:
    one = job.job
    assert differences(one, one) == frozenset()
    moved = job.replace(placing=Placing(offset_x=3), name="Other").job
    assert differences(one, moved) == {("name",), ("faces", 0, "placing", "offset_x")}
    assert differences(one, job.replace(stack=job.stack[:1]).job) == {("faces", 0, "stack")}


@pytest.mark.parametrize("turn", Turn)
def test_an_edit_told_for_a_face_is_an_edit_of_the_job(job: Faced, turn: Turn) -> None:
    """What a face reads is what was written through it, and the other one keeps its own."""
    two = sided(
        job.replace(piece=job.piece.replace(shape=ELL)), Turning(turn=turn), stack=job.stack
    )
    other = two.other
    assert other is not None and other.other == two and len(faces_of(two.job)) == 2
    assert other.piece.shape != two.piece.shape
    edited = other.replace(placing=Placing(rotation=30), piece=other.piece, bleed=0.4)
    assert edited.number == 1 and edited.placing.rotation == 30
    assert edited.piece == other.piece and edited.job.piece == two.job.piece
    assert edited.first.placing == two.placing and edited.first.bleed == 0.4
    assert two.came_up is None and other.came_up == Turning(turn=turn)
    assert both_sides(edited, False).job.faces == (two.face,)
    with pytest.raises(BadInput, match="read from its faces"):
        other.replace(reader=Reader.THROUGH)


def test_the_looked_at_face_belongs_to_the_document(document: Document) -> None:
    document.look_at(1)
    assert document.face == 0
    document.edit("Both sides", lambda j: both_sides(j, True))
    document.look_at(1)
    document.edit("Turn", lambda j: j.replace(placing=Placing(rotation=90)))
    first = document.first
    assert document.face == 1 and document.job is not None and first is not None
    assert document.job.placing.rotation == 90 and first.placing.rotation == 0
    assert "face" not in type(first.job).model_fields
    document.undo(), document.undo()
    assert document.face == 0


def test_film_is_laid_when_what_lies_on_it_changes(
    job: Faced, store: ArtStore, tmp_path: Path
) -> None:
    on_film = on_roll(job.replace(changes=(), texts=(), table=None), True)
    assert asks_for_more(job, on_film)
    made = settled(on_film, store)
    assert is_laid(made) and not asks_for_more(on_film, made)
    art = store.add_artwork(small_art(tmp_path / "more.png", 50, 50))
    more = with_added(made, art)
    assert asks_for_more(made, more) and not is_laid(more)
    done = settled(more, store)
    assert is_laid(done) and len(done.roll.places) == 2  # type: ignore[union-attr]
    # What was worked out for an older job is dropped.
    wider = with_roll(more, gap=9.0)
    assert with_consequences(wider, more, done) == wider
    assert with_consequences(more, more, done).medium == done.medium
    # What was edited meanwhile, and lays nothing, stays.
    edited = with_roll(more, offset=SideOffset(x=0.4)).replace(
        piece=more.piece.replace(surface=Surface(colour="#123456")), name="Other"
    )
    both = with_consequences(edited, more, done)
    assert both.roll.places == done.roll.places  # type: ignore[union-attr]
    assert both.piece.shape == done.piece.shape
    assert (both.name, both.piece.surface) == (edited.name, edited.piece.surface)
    assert both.roll.offset == edited.roll.offset  # type: ignore[union-attr]
    # A laid job that is opened, or looked at from its first side again, stays as it lies.
    assert not asks_for_more(None, made) and not asks_for_more(job, made)
    assert not asks_for_more(made, made.replace(name="Other")) and settled(job, store) == job


def test_a_watched_folder_feeds_film(job: Faced, store: ArtStore, tmp_path: Path) -> None:
    """Each artwork is laid on the film before it is checked and handed off."""
    pattern = on_roll(job.replace(changes=(), texts=(), table=None, bleed=0.0), True)
    inbox, out = tmp_path / "in", tmp_path / "out"
    inbox.mkdir()
    small_art(inbox / "mint.png")
    taken = []
    for one in watch(
        inbox, lambda art: settled(with_only(pattern, art), store).job, to_folder(out, store),
        store, wait=lambda _: None,
    ):  # fmt: skip
        taken += [one] if one is not None else []
        if taken:
            break
    assert [(t.name, t.failed) for t in taken] == [("mint.png", False)], taken
    ticket = read_ticket(out / "mint")
    assert ticket.medium == "roll" and len(ticket.pockets) == 1


def test_a_pocket_set_apart_on_the_other_face_stays_there(job: Faced) -> None:
    two = behind(sided(job, stack=job.stack), artworks=job.artworks)
    assert two.other is not None
    changed = with_change(two.other, {3}, rotation=15)
    assert changed.changes and not changed.first.changes


def test_a_layer_that_went_while_it_was_held_is_not_moved(job: Faced) -> None:
    document = Document()
    document.take(job.job)
    stack_edits.move(document, "Gone", 0)
    assert document.job == job and document.undo_name is None
    stack_edits.move(document, job.stack[-1].name, 0)
    assert document.job is not None and document.job.stack[0] == job.stack[-1]
