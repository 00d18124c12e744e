"""The proof sheet for a customer: what it will look like, as a PDF to sign."""

from __future__ import annotations

import io
from pathlib import Path

from PIL import Image
from reportlab.lib.utils import ImageReader, simpleSplit
from reportlab.pdfgen.canvas import Canvas

from farbe.art.artwork import Pixels
from farbe.atomic import whole_file
from farbe.files.paper import Paper
from farbe.layout.faced import Faced
from farbe.layout.figures import number
from farbe.layout.laid import laid
from farbe.layout.shapewords import shape_words
from farbe.model.printer import LayerKind
from farbe.optics.proof import proof_picture
from farbe.plan.order import channels, printing_layers
from farbe.plan.readers import order_words
from farbe.plan.sentence import surface_words
from farbe.render.sources import Sources
from farbe.said import say, spoken

PIXELS, PLATE_PIXELS = 1600, 260
MM = 72 / 25.4
#: Standard type of every PDF reader, so that the sheet carries no font.
PLAIN, BOLD = "Helvetica", "Helvetica-Bold"


def write_proof_sheet(job: Faced, sources: Sources, path: Path, paper: Paper = Paper.A4) -> None:
    """Write the sheet: look, size, surface, layers in words, plates small, a place to sign.

    Ink and price are left out.

    Parameters
    ----------
    job : as one of its faces has it
    sources : pixels, fonts and profiles
    path : of the new PDF
    paper : on which it is printed

    Raises
    ------
    BadInput
        If the job prints nothing, or the file cannot be written.
    """
    page = _Page(job, paper)
    looks = [(say("by daylight"), 0.0)]
    if any(
        layer.kind is LayerKind.WHITE and layer.hits > 1 for layer in printing_layers(job.stack)
    ):
        looks.append((say("lit from behind"), 1.0))
    for words, lit in looks:
        page.picture(proof_picture(job, sources, pixels=PIXELS, lit=lit), words, len(looks))
    page.facts()
    page.plates([
        (channel.name, proof_picture(job, sources, pixels=PLATE_PIXELS, plate=channel.name))
        for channel in channels(job)
    ])  # fmt: skip
    page.sign()
    with whole_file(path) as file:
        file.write(page.finished())


class _Page:
    """A page that is filled from its top."""

    LEFT = 18 * MM

    def __init__(self, job: Faced, paper: Paper) -> None:
        self._job, self._out = job, io.BytesIO()
        self._paper = paper.points
        self._wide = self._paper[0] - 2 * self.LEFT
        self._page = Canvas(self._out, pagesize=self._paper, invariant=True)
        self._page.setTitle(say("Proof: {job}", job=job.name))
        self._y = self._paper[1] - 24 * MM
        self._page.setFont(BOLD, 18)
        self._page.drawString(self.LEFT, self._y, job.name)
        self._page.setFont(PLAIN, 10)
        self._y -= 6 * MM
        self._page.drawString(
            self.LEFT, self._y, say("Proof: what the finished piece will look like")
        )
        self._y -= 6 * MM

    def picture(self, pixels: Pixels, words: str, count: int) -> None:
        """The look, as large as fits beside or above the others.

        Parameters
        ----------
        pixels : uint8 (h, w, n)
        words : what it says
        count : how many there are
        """
        high, wide = pixels.shape[:2]
        room = 110 * MM / count
        scale = min(self._wide / wide, room / high)
        self._y -= high * scale
        self._draw(pixels, self.LEFT + (self._wide - wide * scale) / 2, self._y, scale)
        self._y -= 4.5 * MM
        self._page.setFont(PLAIN, 9)
        self._page.drawCentredString(self._paper[0] / 2, self._y, say("Seen {words}", words=words))
        self._y -= 5 * MM

    def _draw(self, pixels: Pixels, x: float, y: float, scale: float) -> None:
        high, wide = pixels.shape[:2]
        reader = ImageReader(Image.fromarray(pixels))
        self._page.drawImage(reader, x, y, wide * scale, high * scale)
        self._page.setLineWidth(0.3)
        self._page.rect(x, y, wide * scale, high * scale)

    def facts(self) -> None:
        """What is printed on what, in words."""
        job = self._job
        layers = ", ".join(
            layer.words + (say(" in {hits} hits", hits=layer.hits) if layer.hits > 1 else "")
            for layer in printing_layers(job.stack)
        )
        rows = (
            (say("Piece"), f"{spoken(job.piece.name)}, {shape_words(job.piece)}"),
            (say("Number"), number(len(laid(job)))),
            (say("Surface"), surface_words(job.piece)),
            (say("Layers"), layers),
            (say("Order"), order_words(job)),
        )
        for name, text in rows:
            self._page.setFont(BOLD, 10)
            self._page.drawString(self.LEFT, self._y, name)
            self._page.setFont(PLAIN, 10)
            for line in simpleSplit(text, PLAIN, 10, 142 * MM):
                self._page.drawString(self.LEFT + 26 * MM, self._y, line)
                self._y -= 5 * MM
        self._y -= 3 * MM

    def plates(self, plates: list[tuple[str, Pixels]]) -> None:
        """Each ink's plate, small."""
        each = min(28 * MM, self._wide / max(1, len(plates)))
        self._page.setFont(PLAIN, 8)
        for index, (name, pixels) in enumerate(plates):
            high, wide = pixels.shape[:2]
            scale = min((each - 3 * MM) / wide, 22 * MM / high)
            x = self.LEFT + index * each
            self._draw(pixels, x, self._y - high * scale, scale)
            self._page.drawString(x, self._y - high * scale - 4 * MM, name)
        self._y -= 32 * MM

    def sign(self) -> None:
        """Where the customer agrees."""
        base = 20 * MM
        self._page.setFont(PLAIN, 9)
        self._page.drawString(
            self.LEFT,
            base + 16 * MM,
            say(
                "Colours on screens and desk printers differ from the print; this sheet shows "
                "layers, size and place."
            ),
        )
        for words, x, wide in ((say("Date"), 0.0, 45.0), (say("Agreed"), 55.0, 100.0)):
            self._page.line(self.LEFT + x * MM, base, self.LEFT + (x + wide) * MM, base)
            self._page.drawString(self.LEFT + x * MM, base - 4.5 * MM, words)

    def finished(self) -> bytes:
        self._page.save()
        return self._out.getvalue()
