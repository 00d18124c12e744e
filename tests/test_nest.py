"""Several jobs on one board: each is printed as if it were alone, and one is taken out again."""

from __future__ import annotations

import sqlite3
from pathlib import Path

import numpy as np
import pytest
import tifffile
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import small_art
from farbe.estimate.runs import runs
from farbe.estimate.steps import steps
from farbe.files.handoff import hand_off
from farbe.files.store import ArtStore
from farbe.files.ticket import read_ticket
from farbe.layout.beside import area_of, beside
from farbe.layout.faced import Faced
from farbe.model.base import BadInput
from farbe.model.layer import BLACKOUT, COLOUR, VARNISH_OVER, WHITE_UNDER
from farbe.model.piece import Material, Reader, Rectangle, Surface
from farbe.plan.newjob import job_from_recipe
from farbe.plan.order import printing_layers
from farbe.plan.recipes import recipe
from farbe.plan.shared import shared_stack
from farbe.press.client import Press
from farbe.press.machine import TestPress
from farbe.queue.store import PAST, Queue, State
from farbe.queue.work import add_job, jobs_of, nest, prepare, print_entry

PLAIN = Faced(job_from_recipe(recipe("dark opaque piece")))
LAYERS = [
    WHITE_UNDER, COLOUR, VARNISH_OVER, BLACKOUT, WHITE_UNDER.replace(name="Twice", hits=2),
    VARNISH_OVER.replace(name="Raised", hits=3),
]  # fmt: skip


@pytest.fixture
def job(job: Faced) -> Faced:
    """The usual one, with room beside it."""
    return job.replace(printer=job.printer.replace(bed_height=90))


@pytest.fixture
def other(job: Faced, store: ArtStore, tmp_path: Path) -> Faced:
    """Labels that are read through: colour first, which is the other way round."""
    art = store.add_artwork(small_art(tmp_path / "label.png", 48, 30))
    return job.replace(
        name="Labels",
        piece=job.piece.replace(
            name="label",
            shape=Rectangle(width=9, height=6),
            surface=Surface(material=Material.CLEAR),
        ),
        reader=Reader.THROUGH,
        stack=(COLOUR, WHITE_UNDER),
        artworks=(art.replace(width=8.0, height=5.0),),
        jig=job.jig.replace(name="Labels", columns=2, rows=2),
    )


STACKS = st.lists(st.sampled_from(LAYERS), min_size=1, max_size=5, unique_by=lambda la: la.name)


@given(st.lists(STACKS, min_size=2, max_size=3))
@settings(max_examples=60)
def test_every_stack_keeps_its_order_in_the_shared_one(stacks: list) -> None:
    jobs = tuple(PLAIN.replace(stack=tuple(stack)) for stack in stacks)
    shared = shared_stack(jobs)
    names = [layer.name.casefold() for layer in shared.layers]
    assert len(set(names)) == len(names)
    for one, of in zip(jobs, shared.of, strict=True):
        assert list(of) == sorted(set(of))
        for layer, place in zip(printing_layers(one.stack), of, strict=True):
            found = shared.layers[place]
            assert (found.hits, one.printer.inks_of(found.kind, found.ink)) == (
                layer.hits, one.printer.inks_of(layer.kind, layer.ink)
            )  # fmt: skip
    assert len(shared.layers) <= sum(map(len, stacks))


def test_what_shares_a_board_is_printed_as_alone(
    job: Faced, other: Faced, store: ArtStore, tmp_path: Path
) -> None:
    """The files of both together are those of each, at its place, in its channels."""
    one, two = map(Faced, beside((job.job, other.job)))
    assert one == job
    assert not area_of(one).meets(area_of(two))
    hand_off(one.job, store, tmp_path / "both", others=(two.job,))
    ticket = read_ticket(tmp_path / "both")
    # Colour of both is laid down at once, between the white of the one and of the other.
    layers = [layer.name for layer in ticket.run("artwork").layers]
    assert [name for name in layers if name != "Varnish"] == ["White", "Colour", "White 2"]
    whole, names = plates(tmp_path / "both" / "artwork.tif")
    left = whole.copy()
    for single in (one, two):
        hand_off(single.job, store, tmp_path / single.name)
        alone, own = plates(tmp_path / single.name / "artwork.tif")
        assert alone.any()
        for index, name in enumerate(own):
            rows, columns = np.nonzero(alone[..., index])
            same = [n for n in names if n.split()[0] == name.split()[0]]
            best = [
                n for n in same
                if (whole[rows, columns, names.index(n)] == alone[rows, columns, index]).all()
            ]  # fmt: skip
            assert best, name
            left[rows, columns, names.index(best[0])] = 0
    assert not left.any()
    inks = ticket.run("artwork").ink_ml
    assert sum(inks.values()) == pytest.approx(
        sum(sum(read_ticket(tmp_path / j.name).run("artwork").ink_ml.values()) for j in (one, two)),
        abs=5e-4,
    )


def plates(path: Path) -> tuple[np.ndarray, list[str]]:
    with tifffile.TiffFile(path) as file:
        page = file.pages[0]
        names = [n for n in str(page.tags["InkNames"].value).split("\0") if n]  # type: ignore[union-attr]
        return page.asarray(), names


def test_the_press_puts_each_piece_into_its_pocket(
    job: Faced, other: Faced, store: ArtStore, tmp_path: Path
) -> None:
    one, two = map(Faced, beside((job.job, other.job)))
    hand_off(one.job, store, tmp_path, others=(two.job,))
    press = TestPress()
    ticket = press.take(tmp_path)
    press.print_run("guide", lambda *_: None)
    assert press.place() == len(ticket.pockets) == 16
    for lies in press.bed.pieces:
        near = min(ticket.pockets, key=lambda p: np.hypot(p.x - lies.x, p.y - lies.y))
        assert np.hypot(near.x - lies.x, near.y - lies.y) < 0.3
        assert near.piece == lies.kind
    press.print_run("artwork", lambda *_: None)
    assert [film.kind for film in press.bed.on_pieces].count("white") == 2


def test_what_cannot_share_is_refused_in_a_sentence(job: Faced, other: Faced) -> None:
    for wrong, said in (
        (other.replace(piece=other.piece.replace(height=40)), "mm higher than"),
        (other.replace(printer=other.printer.replace(passes=3)), "another printer"),
        (other.replace(receiver=other.receiver.replace(name="else")), "another receiver"),
        (other.replace(running=other.running.replace(separate=True)), "another way"),
        (other.replace(jig=other.jig.replace(columns=5, rows=5)), "no room"),
        (other.replace(jig=other.jig.replace(off=frozenset(range(1, 9)))), "no pocket"),
    ):  # fmt: skip
        with pytest.raises(BadInput, match=said):
            beside((job.job, wrong.job))


def test_nested_printed_and_taken_out(
    job: Faced, other: Faced, store: ArtStore, tmp_path: Path
) -> None:
    queue = Queue(tmp_path / "queue")
    first, second = add_job(queue, job.job, store), add_job(queue, other.job, store)
    third = add_job(queue, job.replace(name="Third").job, store)
    with pytest.raises(BadInput, match="no room"):
        nest(queue, [first, second, third], store)
    assert nest(queue, [second, first], store) == first
    assert [e.number for e in queue.members(second)] == [first, second]
    folder = prepare(queue, second, store)
    assert len(read_ticket(folder).pieces) == 2
    queue.take_out(first)
    assert not folder.exists()
    assert [e.nest for e in queue.entries()] == [0, 0, 0]
    with pytest.raises(BadInput, match="in no nest"):
        queue.take_out(first)
    nest(queue, [first, second], store)
    queue.hold(second)
    assert queue.next_waiting().number == third  # type: ignore[union-attr]
    queue.release(first)
    queue.move(third, True)
    assert [e.number for e in queue.entries()] == [third, first, second]
    assert len(jobs_of(queue, second, store)) == 2
    with Press() as press:
        done: list[str] = []
        print_entry(queue, second, press, store, step_done=lambda _, step: done.append(step.detail))
        assert press.ask(do="status")["pieces"] == 16
    assert any("4 × label" in words and "12 ×" in words for words in done)
    assert {e.number: e.state for e in queue.entries(PAST)} == {
        first: State.DONE, second: State.DONE,
    }  # fmt: skip
    with pytest.raises(BadInput, match="only jobs that wait"):
        queue.nest([first, third])
    # One that is cancelled leaves the others together.
    again = [add_job(queue, j.job, store) for j in (job, other)]
    nest(queue, again, store)
    queue.cancel(again[0])
    assert [e.number for e in queue.members(again[1])] == [again[1]]


def test_a_queue_from_before_nests_is_read(tmp_path: Path, job: Faced, store: ArtStore) -> None:
    folder = tmp_path / "old"
    number = add_job(Queue(folder), job.job, store)
    base = sqlite3.connect(folder / "queue.sqlite")
    with base:
        base.execute("ALTER TABLE entry DROP COLUMN nest")
    base.close()
    assert Queue(folder).entry(number).nest == 0


def test_times_and_steps_of_both(job: Faced, other: Faced) -> None:
    jobs = [Faced(one) for one in beside((job.job, other.job))]
    both, alone = steps(*jobs), steps(job)
    assert [s.text for s in both[:3]] == [s.text for s in alone[:3]]
    together = sum(s.seconds for s in both if s.run == "artwork")
    assert together > sum(s.seconds for s in alone if s.run == "artwork")
    assert runs(*jobs)[0].hits == 1


def test_jobs_lie_together_whatever_was_measured_between_them(job: Faced, other: Faced) -> None:
    """A printer that was taught after the first job was made is still the same printer."""
    taught = other.printer.conditions[0].replace(name="Later", total=250.0)
    later = other.replace(printer=other.printer.knowing(taught))
    assert [one.name for one in beside((job.job, later.job))] == [
        one.name for one in beside((job.job, other.job))
    ]
    finer = other.replace(printer=other.printer.replace(dpi_x=300))
    with pytest.raises(BadInput, match="another printer or mode"):
        beside((job.job, finer.job))
