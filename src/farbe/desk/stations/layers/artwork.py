"""What is done to the artwork before it becomes plates, and what its own plates are for."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QFileDialog, QMenu, QPushButton

from farbe.apart.asking import ask
from farbe.apart.untold import untold
from farbe.desk.fields import ChoiceField, NumberField
from farbe.desk.form import Block, Blocks, ElidedButton, Form, label
from farbe.desk.stations.base import Desk
from farbe.desk.stations.layers.treatments import StepList
from farbe.desk.stations.valuerows import FigureRow, Listed, Pick
from farbe.edits.artwork import index_of
from farbe.edits.values import with_artwork
from farbe.files.store import ArtStore
from farbe.follows.preview import FileOffers
from farbe.layout.faced import Faced
from farbe.model.artwork import ArtworkFile, PageBox, PageLayer, PlateUse
from farbe.model.base import BadInput, Value
from farbe.model.edit import Adjust, Clear, Crop, CurvePoints, Recolour
from farbe.model.meaning import Meaning
from farbe.plan.spots import likely_use, with_plates
from farbe.said import say

_EDITS: tuple[tuple[str, Value], ...] = (
    (say("Clear a background"), Clear()),
    (say("Black and white point"), CurvePoints()),
    (say("Brightness and colour"), Adjust()),
    (say("Give a colour inks"), Recolour()),
    (say("Crop"), Crop()),
)
_CONNECTED = ((True, say("from the edge in")), (False, say("everywhere")))
_NEAR = (
    FigureRow(say("Tolerance"), "tolerance", "ΔE", 1, 1),
    FigureRow(say("Softness"), "softness", "ΔE", 1, 1),
)
_ROWS: dict[type[Value], tuple[Listed, ...]] = {
    Clear: (Pick(say("Where"), "connected", _CONNECTED), *_NEAR),
    CurvePoints: (),
    Adjust: (
        FigureRow(say("Brightness"), "brightness", "", 5, 0),
        FigureRow(say("Contrast"), "contrast", "", 5, 0),
        FigureRow(say("Saturation"), "saturation", "", 5, 0),
    ),
    Recolour: (
        *_NEAR,
        FigureRow(say("Cyan"), "cyan", "%", 5, 0),
        FigureRow(say("Magenta"), "magenta", "%", 5, 0),
        FigureRow(say("Yellow"), "yellow", "%", 5, 0),
        FigureRow(say("Black"), "black", "%", 5, 0),
    ),
    Crop: (
        FigureRow(say("Left"), "left"),
        FigureRow(say("Right"), "right"),
        FigureRow(say("Top"), "top"),
        FigureRow(say("Bottom"), "bottom"),
    ),
}
_WHOLE = ((False, say("as it is drawn")), (True, say("whole, under all")))


def _boxes(stated: tuple[PageBox, ...]) -> list[tuple[PageBox, str]]:
    """Boxes to cut to: those that the page states; without a trim box that is the page."""
    return [(box, say("its {box} box", box=box.words)) for box in PageBox
            if box in stated or box in (PageBox.TRIM, PageBox.MEDIA)]  # fmt: skip


class ArtworkForm(Form):
    """About the artwork of the pocket that is shown."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self._desk = desk
        self.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        self.steps = StepList(
            desk, say("correction"), _EDITS, _ROWS,
            lambda j: self._field(j, "edits", ()), lambda j, v: self._change(j, edits=v),
        )  # fmt: skip
        self._blocks = Blocks()
        self.wide(self._blocks)
        self.refresh()

    def _index(self, job: Faced) -> int | None:
        """Which of the job's artworks is shown."""
        preview = self._desk.results.preview
        shown = preview.job.artwork if preview is not None else None
        digests = [art.key for art in job.artworks]
        if shown is not None and shown.key in digests:
            return digests.index(shown.key)
        return 0 if digests else None

    def _art(self, job: Faced) -> ArtworkFile | None:
        index = self._index(job)
        return None if index is None else job.artworks[index]

    def _change(self, job: Faced, **fields: Any) -> Faced:
        index = self._index(job)
        return job if index is None else with_artwork(job, index, **fields)

    def refresh(self) -> None:
        """Make the rows anew when there are others."""
        job = self._desk.session.job
        art = self._art(job) if job is not None else None
        preview = self._desk.results.preview
        file = preview.offers if preview is not None and art is not None else FileOffers()
        self._blocks.show_blocks(self._parts(art, file) if art is not None else ())

    def _parts(self, art: ArtworkFile, file: FileOffers) -> Iterator[Block]:
        """What its rows are about, and what makes them."""
        yield (
            (art.key, file, art.layers, art.profile, art.file_name),
            partial(self._file_rows, art=art, file=file),
        )
        uses = tuple((use.name, use.meaning, use.guessed, use.whole) for use in art.plates)
        plates = tuple(use.name for use in art.plates)
        yield from self.steps.blocks((art.key, plates), art.edits, _EDITS)
        groups = tuple(dict.fromkeys((*file.groups, *(name for name, _ in file.layers))))
        if groups or art.groups or art.plates:
            yield (
                (art.key, file.layers, groups, art.groups, uses),
                partial(self._plate_rows, art=art, groups=groups, layers=bool(file.layers)),
            )

    def _file_rows(self, form: Form, art: ArtworkFile, file: FileOffers) -> None:
        session = self._desk.session
        form.head(say("Artwork"))
        name = label(art.file_name, "faint")
        name.setWordWrap(True)
        form.wide(name)
        if file.pages > 1:
            form.row(
                say("Page of {pages}", pages=file.pages),
                NumberField(
                    session, say("Page of the artwork"), lambda j: self._field(j, "page", 1),
                    lambda j, v: self._with_page(j, round(v), file.pages), unit="", digits=0,
                ),
            )  # fmt: skip
        if file.is_page:
            form.row(
                say("Cut to"),
                ChoiceField(session, say("Page box"), _boxes(file.boxes),
                            lambda j: self._field(j, "box", None), self._with_box),
            )  # fmt: skip
        if file.layers:
            form.row(say("Layers"), self._layer_button(art, file.layers))
        profile = ElidedButton(
            say("of the file") if art.profile is None else say("a file of your own")
        )
        profile.setAccessibleName(say("Profile of the artwork"))
        profile.setToolTip(
            say("Take another ICC profile than the embedded one, or the embedded again")
        )
        profile.clicked.connect(self._ask_profile)
        form.row(say("Profile"), profile)

    def _plate_rows(
        self, form: Form, art: ArtworkFile, groups: tuple[str, ...], layers: bool
    ) -> None:
        if art.plates or groups:
            form.head(say("Plates of the file"), say("what they are for"))
        if groups or art.groups:
            form.wide(self._group_button(art, groups, layers))
        for place, use in enumerate(art.plates):
            self._plate(form, place, use)

    def _layer_button(self, art: ArtworkFile, layers: tuple[tuple[str, bool], ...]) -> QPushButton:
        """Switches layers of a page; those that are hidden in the file are off at first."""
        switched = {layer.name: layer.on for layer in art.layers}
        shown = sum(switched.get(name, on) for name, on in layers)
        button = ElidedButton(
            say("{shown} of {layers} are printed", shown=shown, layers=len(layers))
        )
        button.setAccessibleName(say("Layers of the page"))
        menu = QMenu(button)
        for name, on in layers:
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(switched.get(name, on))
            action.triggered.connect(
                lambda wanted, name=name, on=on: self.switch_layer(name, wanted, on)
            )
        button.setMenu(menu)
        return button

    def switch_layer(self, name: str, wanted: bool, own: bool) -> None:
        """Print a layer of the page or not; ``own`` is what the file says."""

        def change(job: Faced) -> Faced:
            others = tuple(one for one in self._field(job, "layers", ()) if one.name != name)
            more = () if wanted is own else (PageLayer(name=name, on=wanted),)
            return self._change(job, layers=(*others, *more))

        words = (
            say("Show the layer {name}", name=name)
            if wanted
            else say("Hide the layer {name}", name=name)
        )
        self._desk.session.edit(words, change)

    def _group_button(self, art: ArtworkFile, groups: tuple[str, ...], layers: bool) -> QPushButton:
        """Chooses which groups of a drawing are plates of their own."""
        button = ElidedButton(say("Layers as plates") if layers else say("Groups as plates"))
        button.setToolTip(say("Take a group of the drawing as a plate and out of its picture"))
        menu = QMenu(button)
        for name in (*art.groups, *(name for name in groups if name not in art.groups)):
            action = menu.addAction(name)
            action.setCheckable(True)
            action.setChecked(name in art.groups)
            action.triggered.connect(lambda on, name=name: self.take_group(name, on))
        button.setMenu(menu)
        return button

    def take_group(self, name: str, on: bool) -> None:
        """Read a group of the drawing as a plate, or as part of the picture again."""
        use = likely_use(name)
        recalled = self._desk.recall_plate(name)
        if recalled is not None:
            use = use.replace(meaning=recalled, guessed=False)

        def change(job: Faced) -> Faced:
            art = self._art(job)
            if art is None:
                return job
            groups = tuple(group for group in art.groups if group != name)
            plates = tuple(use for use in art.plates if use.name != name)
            if on:
                groups, plates = (*groups, name), (*plates, use)
            return self._change(job, groups=groups, plates=plates)

        words = (
            say("Take {name} as a plate", name=name)
            if on
            else say("Put {name} into the picture", name=name)
        )
        self._desk.session.edit(words, change)

    def _ask_profile(self) -> None:
        job = self._desk.session.job
        art = self._art(job) if job is not None else None
        if art is not None and art.profile is not None:
            self._desk.session.edit(
                say("Profile of the file"), lambda j: self._change(j, profile=None)
            )
            return
        name, _ = QFileDialog.getOpenFileName(
            self, say("Profile"), "", say("ICC profiles (*.icc *.icm)")
        )
        if name:
            self.take_profile(Path(name))

    def take_profile(self, path: Path) -> None:
        """Read the artwork's colours by another profile than the embedded one."""
        session = self._desk.session
        art = self._art(session.job) if session.job is not None else None
        if art is None:
            return
        self._desk.workers.start(
            "profile of the artwork",
            lambda r: ask(untold, ArtStore.add_artwork_profile, session.store, path, art, report=r),
            session.for_this_job(
                lambda digest: session.edit(
                    say("Profile of the artwork"),
                    lambda j: with_artwork(j, index_of(j, art), profile=digest),
                )
            ),
        )

    def _with_page(self, job: Faced, page: int, pages: int) -> Faced:
        if not 1 <= page <= pages:
            raise BadInput(
                say("The file has {pages} pages; there is no page {page}.", pages=pages, page=page)
            )
        art = self._art(job)
        if art is not None:
            # Read by a worker; the edit follows.
            self._desk.intake.at_page(art.key, page, art.box)
        return job

    def _with_box(self, job: Faced, box: PageBox) -> Faced:
        art = self._art(job)
        if art is not None:
            self._desk.intake.at_page(art.key, art.page, box)
        return job

    def _field(self, job: Faced, field: str, otherwise: Any) -> Any:
        art = self._art(job)
        return otherwise if art is None else getattr(art, field)

    def _plate(self, form: Form, place: int, use: PlateUse) -> None:
        session = self._desk.session

        def get(job: Faced) -> PlateUse | None:
            plates = self._field(job, "plates", ())
            return plates[place] if place < len(plates) else None

        def put(job: Faced, made: PlateUse) -> Faced:
            plates = self._field(job, "plates", ())
            job = self._change(job, plates=(*plates[:place], made, *plates[place + 1 :]))
            art = self._art(job)
            # A plate that became white or varnish goes to a layer at once.
            only = None if art is None else art.replace(plates=(made,))
            return job if only is None or made.meaning is use.meaning else with_plates(job, only)

        def meaning(job: Faced) -> Meaning | None:
            found = get(job)
            return found.meaning if found is not None else None

        def mean(job: Faced, value: Meaning) -> Faced:
            found = get(job)
            self._desk.remember_plate(use.name, value)
            return job if found is None else put(job, found.replace(meaning=value, guessed=False))

        asked = use.meaning is Meaning.UNKNOWN
        choices = [(m, m.words) for m in Meaning if asked or m is not Meaning.UNKNOWN]
        if use.guessed:
            choices = [(m, say("{words}, a guess", words=words) if m is use.meaning else words)
                       for m, words in choices]  # fmt: skip
        form.row(
            use.name[:14],
            ChoiceField(session, say("Plate {use}", use=use.name), choices, meaning, mean),
        )
        if use.meaning in (Meaning.WHITE, Meaning.VARNISH, Meaning.INK):
            form.row("", ChoiceField(
                session, say("{use} under other things", use=use.name), _WHOLE,
                lambda j: found.whole if (found := get(j)) is not None else None,
                lambda j, v: j if (found := get(j)) is None else put(j, found.replace(whole=v)),
            ))  # fmt: skip
        if use.meaning is Meaning.COLOUR:
            for pair in ((0, 1), (2, 3)):
                form.row(("C, M", "Y, K")[pair[0] // 2], *(
                    self._ink(use.name, i, get, put) for i in pair
                ))  # fmt: skip

    def _ink(self, name: str, index: int, get: Any, put: Any) -> NumberField:
        ink = ("cyan", "magenta", "yellow", "black")[index]

        def write(job: Faced, value: float) -> Faced:
            use = get(job)
            if use is None:
                return job
            inks = (*use.inks[:index], value, *use.inks[index + 1 :])
            made: Faced = put(job, use.replace(inks=inks))
            return made

        return NumberField(
            self._desk.session, say("{name} as {ink}", name=name, ink=ink),
            lambda j: use.inks[index] if (use := get(j)) is not None else 0.0, write,
            unit="%", step=5, digits=0,
        )  # fmt: skip
