"""Artwork for the samples, drawn with Pillow; colours and names are made up."""

from __future__ import annotations

import math
from importlib.resources import as_file, files
from typing import Final

from PIL import Image, ImageCms, ImageDraw, ImageFilter, ImageFont

#: Drawn so many times larger, then reduced, for smooth edges.
OVER: Final = 3
DPI: Final = 600
Paint = tuple[int, int, int, int]
DrawPoint = tuple[float, float]

CREAM: Final[Paint] = (255, 255, 255, 255)
AMBER: Final[Paint] = (240, 164, 30, 255)
HONEY: Final[Paint] = (203, 108, 18, 255)
BARK: Final[Paint] = (58, 30, 16, 255)
HEATHER: Final[Paint] = (170, 84, 150, 255)
LEAF: Final[Paint] = (118, 164, 74, 255)


class Sheet:
    """A transparent square canvas in millimetres around its middle, y down."""

    def __init__(self, side: float, dpi: float = DPI) -> None:
        self.dpi = dpi
        self.scale = dpi / 25.4 * OVER
        self.pixels = round(side * dpi / 25.4)
        self.image = Image.new("RGBA", (self.pixels * OVER,) * 2, (0, 0, 0, 0))
        self.middle = self.pixels * OVER / 2
        self.draw = ImageDraw.Draw(self.image)

    def at(self, x: float, y: float) -> DrawPoint:
        """The pixel of a place in mm around the middle, y down."""
        return self.middle + x * self.scale, self.middle + y * self.scale

    def polygon(self, points: list[DrawPoint], fill: Paint) -> None:
        self.draw.polygon([self.at(*p) for p in points], fill=fill)

    def disc(self, x: float, y: float, radius: float, fill: Paint) -> None:
        """A disc; mm around the middle, y down."""
        self.ellipse(x, y, radius, radius, 0.0, fill)

    def ellipse(self, x: float, y: float, rx: float, ry: float, angle: float, fill: Paint) -> None:
        """An ellipse, its half axes in mm, turned by degrees."""
        turn = math.radians(angle)
        points = [
            (
                x + rx * math.cos(t) * math.cos(turn) - ry * math.sin(t) * math.sin(turn),
                y + rx * math.cos(t) * math.sin(turn) + ry * math.sin(t) * math.cos(turn),
            )
            for t in (i * math.tau / 180 for i in range(180))
        ]
        self.polygon(points, fill)

    def ring(self, radius: float, width: float, fill: Paint) -> None:
        """A ring around the middle; radius and width of its stroke in mm."""
        outer = radius + width / 2
        box = [*self.at(-outer, -outer), *self.at(outer, outer)]
        self.draw.ellipse(box, outline=fill, width=round(width * self.scale))

    def arc_text(
        self,
        text: str,
        radius: float,
        size: float,
        *,
        below: bool = False,
        spacing: float = 0.0,
        fill: Paint = CREAM,
    ) -> None:
        """Letters, ``size`` mm, upright on a circle, centred at its top or at its bottom."""
        font = _font(round(size * self.scale))
        gap = spacing * self.scale
        advances = [font.getlength(letter) + gap for letter in text]
        turn = -sum(advances) / 2
        for letter, advance in zip(text, advances, strict=True):
            angle = (turn + advance / 2) / (radius * self.scale)
            turn += advance
            side = round(size * self.scale * 2.2)
            stamp = Image.new("L", (side, side), 0)
            ImageDraw.Draw(stamp).text(
                (side / 2, side / 2),
                letter,
                font=font,
                fill=255,
                anchor="mm" if letter in "·" else "ms",
            )
            shift = size * 0.36 * self.scale
            stamp = (
                stamp.transform(stamp.size, Image.Transform.AFFINE, (1, 0, 0, 0, 1, -shift))
                if letter not in "·"
                else stamp
            )
            degrees = math.degrees(angle)
            stamp = stamp.rotate(degrees if below else -degrees, Image.Resampling.BICUBIC)
            x = self.middle + radius * self.scale * math.sin(angle)
            y = self.middle + radius * self.scale * math.cos(angle) * (1 if below else -1)
            # Composited, so that soft edges keep the letters' colour and only their alpha falls.
            inked = Image.new("RGBA", stamp.size, fill)
            inked.putalpha(stamp)
            self.image.alpha_composite(inked, (round(x - side / 2), round(y - side / 2)))

    def text(self, words: str, x: float, y: float, size: float, fill: Paint = CREAM) -> None:
        """A straight line of type, ``size`` mm, centred on a place in mm."""
        font = _font(round(size * self.scale))
        self.draw.text(self.at(x, y), words, font=font, fill=fill, anchor="mm")

    def panel(
        self, left: float, top: float, right: float, bottom: float, radius: float, fill: Paint
    ) -> None:
        """A rectangle with round corners; all in mm around the middle, y down."""
        box = [*self.at(left, top), *self.at(right, bottom)]
        self.draw.rounded_rectangle(box, round(radius * self.scale), fill=fill)

    def finished(self) -> Image.Image:
        return self.image.resize((self.pixels, self.pixels), Image.Resampling.BOX)


class Part(Sheet):
    """A part of a sheet in its own picture, to be laid over it; it is wholly transparent white.

    Parameters
    ----------
    of : the sheet
    x, y : middle of the part in mm around the sheet's middle, y down
    reach : half of its side in mm
    """

    def __init__(self, of: Sheet, x: float, y: float, reach: float) -> None:
        self.__dict__.update(of.__dict__)
        left, top = (max(0, math.floor(place)) for place in of.at(x - reach, y - reach))
        right, bottom = (min(of.image.width, math.ceil(place))
                         for place in of.at(x + reach, y + reach))  # fmt: skip
        self.corner = (left, top)
        self.image = Image.new("RGBA", (right - left, bottom - top), (255, 255, 255, 0))
        self.draw = ImageDraw.Draw(self.image)

    def at(self, x: float, y: float) -> DrawPoint:
        """The pixel of the part at a place in mm around the sheet's middle."""
        across, down = super().at(x, y)
        return across - self.corner[0], down - self.corner[1]


def _font(size: int) -> ImageFont.FreeTypeFont:
    with as_file(files("farbe") / "data" / "fonts" / "Inter-Bold.otf") as path:
        return ImageFont.truetype(str(path), size)


def _hexagon(x: float, y: float, radius: float) -> list[DrawPoint]:
    return [
        (x + radius * math.cos(a), y + radius * math.sin(a))
        for a in (math.pi / 6 + i * math.pi / 3 for i in range(6))
    ]


def _bee(sheet: Sheet, x: float, y: float, size: float) -> None:
    """A bee seen from above; the wings are half transparent."""
    for side in (-1, 1):
        veil = Part(sheet, x, y, 1.4 * size)
        veil.ellipse(
            x + side * 0.62 * size,
            y - 0.30 * size,
            0.60 * size,
            0.27 * size,
            side * -24,
            (255, 255, 255, 235),
        )
        veil.ellipse(
            x + side * 0.46 * size,
            y + 0.12 * size,
            0.40 * size,
            0.19 * size,
            side * 22,
            (255, 255, 255, 215),
        )
        sheet.image.alpha_composite(veil.image, veil.corner)
        sheet.draw = ImageDraw.Draw(sheet.image)
    sheet.ellipse(x, y + 0.30 * size, 0.33 * size, 0.62 * size, 0, BARK)
    for at, half in ((0.14, 0.315), (0.40, 0.32), (0.64, 0.25)):
        sheet.polygon(
            [
                (x - half * size, y + (at - 0.055) * size),
                (x + half * size, y + (at - 0.055) * size),
                (x + half * 0.97 * size, y + (at + 0.055) * size),
                (x - half * 0.97 * size, y + (at + 0.055) * size),
            ],
            AMBER,
        )
    sheet.disc(x, y - 0.30 * size, 0.25 * size, BARK)
    sheet.disc(x, y - 0.62 * size, 0.17 * size, BARK)
    for side in (-1, 1):
        sheet.polygon(
            [
                (x + side * 0.06 * size, y - 0.74 * size),
                (x + side * 0.24 * size, y - 1.02 * size),
                (x + side * 0.29 * size, y - 0.99 * size),
                (x + side * 0.11 * size, y - 0.72 * size),
            ],
            BARK,
        )


def _sprig(sheet: Sheet, side: int) -> None:
    """Heather up one side of the emblem."""
    for i in range(9):
        t = i / 8
        angle = math.radians(90 - side * (52 + 40 * t))
        radius = 24.0
        x, y = radius * math.cos(angle), radius * math.sin(angle)
        tilt = math.degrees(angle) + side * 35
        sheet.ellipse(x + side * 0.9, y, 1.5 - 0.5 * t, 0.55, tilt, LEAF)
        sheet.ellipse(x - side * 0.9, y - 0.5, 1.25 - 0.45 * t, 0.85 - 0.3 * t, tilt + 60, HEATHER)
        sheet.disc(x - side * 0.9, y - 0.5, 0.34 - 0.1 * t, (232, 178, 218, 255))


def lid_emblem() -> Image.Image:
    """The jar lid's emblem, 66 mm across, transparent around it; its lettering is white."""
    sheet = Sheet(66.0)
    sheet.ring(31.6, 0.55, AMBER)
    sheet.ring(30.6, 0.22, CREAM)
    sheet.arc_text("BRINDLEMERE HONEY", 25.4, 5.7, spacing=0.45)
    sheet.arc_text("HEATHER · 340 g", 25.9, 3.7, below=True, spacing=0.35)
    _sprig(sheet, -1)
    _sprig(sheet, 1)
    sheet.polygon(_hexagon(0, 0, 18.6), CREAM)
    sheet.polygon(_hexagon(0, 0, 17.7), HONEY)
    sheet.polygon(_hexagon(0, 0, 16.9), AMBER)
    _comb(sheet)
    _bee(sheet, 0, 0.2, 9.6)
    return sheet.finished()


def _comb(sheet: Sheet) -> None:
    """Cells inside the hexagon, lighter to the upper left, with a soft glow behind the bee."""
    pitch = 3.1
    for row in range(-5, 6):
        for column in range(-5, 6):
            x = (column + (row % 2) / 2) * pitch * math.sqrt(3) / 1.0
            y = row * pitch * 1.5
            if max(abs(x) * math.cos(math.pi / 6) + abs(y) / 2, abs(y)) > 13.2 * 1.0:
                continue
            light = max(0.0, min(1.0, 0.5 - (x + y) / 40))
            colour = (round(214 + 38 * light), round(122 + 78 * light), round(16 + 60 * light), 255)
            sheet.polygon(_hexagon(x, y, pitch * 0.9), colour)
    glow = Image.new("L", sheet.image.size, 0)
    reach = 8.5 * sheet.scale
    ImageDraw.Draw(glow).ellipse(
        [sheet.middle - reach, sheet.middle - reach, sheet.middle + reach, sheet.middle + reach],
        fill=190,
    )
    small = glow.resize((glow.width // 8, glow.height // 8)).filter(
        ImageFilter.GaussianBlur(reach / 24)
    )
    sheet.image.paste(
        Image.new("RGBA", glow.size, (255, 226, 150, 255)), (0, 0), small.resize(glow.size)
    )
    sheet.draw = ImageDraw.Draw(sheet.image)


def _cropped(sheet: Sheet, width: float, height: float) -> Image.Image:
    """The middle of a sheet, so many mm large."""
    whole = sheet.finished()
    half_w, half_h = (round(side * sheet.dpi / 25.4 / 2) for side in (width, height))
    middle = sheet.pixels // 2
    return whole.crop((middle - half_w, middle - half_h, middle + half_w, middle + half_h))


def tag_face(ground: Paint, cells: Paint) -> Image.Image:
    """A name tag's face, 66 × 34 mm: a coloured field with a comb at its right, a white panel."""
    sheet = Sheet(68.0)
    sheet.polygon([(-33, -17), (33, -17), (33, 17), (-33, 17)], ground)
    for row in range(-4, 5):
        for column in range(5):
            x, y = 17.0 + (column + (row % 2) / 2) * 4.6, row * 4.0
            if column > 0 or row % 3:
                sheet.polygon(_hexagon(x, y, 2.3), cells)
    sheet.polygon([(-20, -6.5), (14.5, -6.5), (14.5, 8.5), (-20, 8.5)], CREAM)
    return _cropped(sheet, 66, 34)


def tag_back() -> Image.Image:
    """A name tag's back, 66 × 34 mm: the bee on amber."""
    sheet = Sheet(68.0)
    sheet.polygon([(-33, -17), (33, -17), (33, 17), (-33, 17)], AMBER)
    sheet.polygon(_hexagon(4, 0, 13.2), CREAM)
    sheet.polygon(_hexagon(4, 0, 12.2), HONEY)
    _bee(sheet, 4, 0.4, 8.4)
    return _cropped(sheet, 66, 34)


MOSS: Final[Paint] = (34, 92, 66, 255)
DUSK: Final[Paint] = (38, 44, 92, 255)


def jar_label() -> Image.Image:
    """A label for clear film, 84 × 56 mm: the glass shows between its parts."""
    sheet = Sheet(86.0)
    sheet.panel(-42, -28, 42, -15.5, 3, MOSS)
    sheet.text("BRINDLEMERE", 0, -21.8, 6.4)
    sheet.panel(-42, 15, 42, 28, 3, AMBER)
    sheet.text("Thyme honey · 250 g", 0, 21.4, 5.0, BARK)
    for x in (-27.0, 27.0):
        for row, column in ((-1, 0), (0, -0.5), (0, 0.5), (1, 0)):
            sheet.polygon(_hexagon(x + column * 7.6, row * 6.6, 3.7), HONEY)
            sheet.polygon(_hexagon(x + column * 7.6, row * 6.6, 2.9), AMBER)
    sheet.disc(0, 0, 13.4, CREAM)
    sheet.disc(0, 0, 12.2, AMBER)
    _bee(sheet, 0, 0.6, 7.8)
    return _cropped(sheet, 84, 56)


def stall_sign() -> Image.Image:
    """A sign for light from behind, 280 × 180 mm at 160 dpi: a night sky, lamps, the name."""
    sheet = Sheet(284.0, 160)
    sheet.panel(-140, -90, 140, 90, 0, DUSK)
    for i in range(60):
        star = (i * 47) % 276 - 138, (i * 29) % 76 - 86
        sheet.disc(*star, 0.5 + (i % 4) * 0.3, (255, 244, 214, 255))
    for row in range(6):
        for column in range(-8, 9):
            x, y = (column + (row % 2) / 2) * 18.6, 20 + row * 16.0
            glow = max(0.0, 1.0 - math.hypot(x, y - 62) / 130)
            cell = (round(120 + 132 * glow), round(64 + 132 * glow), round(20 + 40 * glow), 255)
            sheet.polygon(_hexagon(x, y, 9.6), cell)
    sheet.text("BRINDLEMERE", 0, -34, 34)
    sheet.text("honey from the heath", 0, -4, 15, (255, 214, 120, 255))
    sheet.polygon(_hexagon(0, 54, 30), CREAM)
    sheet.polygon(_hexagon(0, 54, 27.5), AMBER)
    _bee(sheet, 0, 56, 17)
    return _cropped(sheet, 280, 180)


def window_outside() -> Image.Image:
    """A window graphic for the street, 260 × 180 mm at 160 dpi, without an empty place."""
    sheet = Sheet(264.0, 160)
    sheet.panel(-130, -90, 130, 90, 0, MOSS)
    for row in range(-5, 6):
        for column in range(-8, 9):
            if abs(row) > 2:
                x, y = (column + (row % 2) / 2) * 17.3, row * 15.0
                sheet.polygon(_hexagon(x, y, 8.4), AMBER if (row + column) % 3 else HONEY)
    sheet.panel(-118, -34, 118, 34, 6, CREAM)
    sheet.disc(-86, 0, 26, AMBER)
    _bee(sheet, -86, 1, 15)
    sheet.text("OPEN TODAY", 26, -9, 25, MOSS)
    sheet.text("honey, mead and candles", 26, 17, 11.5, HONEY)
    return _cropped(sheet, 260, 180)


def window_inside() -> Image.Image:
    """The same window as who leaves the shop sees it, 260 × 180 mm at 160 dpi."""
    sheet = Sheet(264.0, 160)
    sheet.panel(-130, -90, 130, 90, 0, DUSK)
    for i in range(14):
        x = -120 + i * 18.4
        sheet.ellipse(x, 58 + 8 * math.sin(i * 1.7), 4, 15, 12 * math.sin(i), HEATHER)
        sheet.ellipse(x + 8, 70, 4, 11, -10, LEAF)
    sheet.text("SAFE HOME", 0, -11, 30)
    sheet.text("and come again", 0, 17, 13, (255, 214, 120, 255))
    return _cropped(sheet, 260, 180)


def apron_print() -> Image.Image:
    """A transfer, 180 × 150 mm at 300 dpi: a smoker with soft smoke, and fine lettering."""
    sheet = Sheet(184.0, 300)
    smoke = Image.new("L", sheet.image.size, 0)
    pen = ImageDraw.Draw(smoke)
    for i in range(26):
        t = i / 25
        x = 34 + 46 * t + 9 * math.sin(t * 9)
        y = -8 - 58 * t
        radius = (4 + 15 * t) * sheet.scale
        middle = sheet.at(x - 30, y)
        box = [middle[0] - radius, middle[1] - radius, middle[0] + radius, middle[1] + radius]
        pen.ellipse(box, fill=round(190 * (1 - t) ** 1.2))
    small = smoke.resize((smoke.width // 16, smoke.height // 16))
    soft = small.filter(ImageFilter.GaussianBlur(9)).resize(smoke.size, Image.Resampling.BICUBIC)
    cloud = Image.new("RGBA", sheet.image.size, (236, 236, 240, 255))
    cloud.putalpha(soft)
    sheet.image.alpha_composite(cloud)
    sheet.draw = ImageDraw.Draw(sheet.image)
    sheet.panel(-38, -4, 8, 46, 6, (150, 158, 168, 255))
    sheet.panel(-38, 4, 8, 8, 0, (104, 112, 122, 255))
    sheet.polygon([(-32, -4), (2, -4), (14, -18), (6, -24)], (150, 158, 168, 255))
    sheet.polygon([(-62, 2), (-40, 8), (-40, 42), (-62, 48)], HONEY)
    for y in (10.0, 20.0, 30.0, 40.0):
        sheet.polygon([(-62, y), (-40, y + 1.5), (-40, y + 3), (-62, y + 1.5)], BARK)
    sheet.text("KEEPER OF BEES", 0, 60, 13, AMBER)
    sheet.text("Brindlemere Honey Cooperative · est. on a windy heath", 0, 70, 3.4)
    return _cropped(sheet, 180, 150)


def bee_badge() -> Image.Image:
    """A round badge for a pocket, 72 × 72 mm at 300 dpi."""
    sheet = Sheet(74.0, 300)
    sheet.disc(0, 0, 36, AMBER)
    sheet.disc(0, 0, 32.6, BARK)
    _bee(sheet, 0, 1, 18)
    sheet.arc_text("BRINDLEMERE", 26, 6.4, spacing=0.8, fill=AMBER)
    return _cropped(sheet, 72, 72)


def initial_badge(letter: str, ground: Paint, mark: Paint) -> Image.Image:
    """A hexagon with a letter and comb around it, 60 × 60 mm at 420 dpi."""
    sheet = Sheet(62.0, 420)
    sheet.polygon(_hexagon(0, 0, 29), mark)
    sheet.polygon(_hexagon(0, 0, 26.4), ground)
    for step in range(12):
        angle = math.radians(30 * step + 15)
        sheet.polygon(_hexagon(21 * math.cos(angle), 21 * math.sin(angle), 2.0), mark)
    sheet.text(letter, 0, 0, 24, mark)
    return _cropped(sheet, 60, 60)


def pen_print() -> Image.Image:
    """Small white lettering, hairlines and a comb for the barrel of a pen, 46 × 5 mm, 1200 dpi."""
    sheet = Sheet(48.0, 1200)
    for step in range(3):
        sheet.polygon(_hexagon(-20.5 + 1.9 * step, 0.0 if step % 2 else 0.55, 1.05), AMBER)
    white: Paint = (255, 255, 255, 255)
    sheet.text("BRINDLEMERE HONEY", 2.5, 0.9, 2.0, white)
    sheet.text("market hall, stall seven, every Saturday from eight", 2.5, -1.2, 0.95, white)
    # A rule that is as fine as a hair, and one that prints.
    sheet.polygon([(-14, -0.22), (19, -0.22), (19, -0.27), (-14, -0.27)], white)
    sheet.polygon([(-14, -2.1), (19, -2.1), (19, -2.25), (-14, -2.25)], AMBER)
    return _cropped(sheet, 46, 5)


def corner_comb() -> Image.Image:
    """Comb for an apron's lower corner, 150 × 130 mm at 300 dpi: an L with an empty middle."""
    sheet = Sheet(154.0, 300)
    for row in range(10):
        for column in range(11):
            x, y = -66 + (column + (row % 2) / 2) * 12.6, 55 - row * 11.0
            if x < -38 or y > 28:
                sheet.polygon(_hexagon(x, y, 6.6), HONEY if (row * 3 + column) % 4 else AMBER)
                sheet.polygon(_hexagon(x, y, 4.4), BARK if (row + column) % 5 == 0 else AMBER)
    return _cropped(sheet, 150, 130)


def _scenery(sheet: Sheet, left: float, right: float) -> None:
    """Hills and heather along the lower edge of a label that goes all around."""
    sheet.polygon([(left, 50), (right, 50), (right, -50), (left, -50)], DUSK)
    steps = 90
    wide = right - left
    hills = [
        (left + wide * i / steps, 18 - 7 * math.sin(i / steps * math.tau * 3)
         - 4 * math.sin(i / steps * math.tau * 7 + 1))
        for i in range(steps + 1)
    ]  # fmt: skip
    sheet.polygon([*hills, (right, 50), (left, 50)], MOSS)
    for i in range(24):
        x = left + wide * (i + 0.5) / 24
        sheet.ellipse(x, 33 + 3 * math.sin(i * 1.9), 2.2, 8, 14 * math.sin(i * 2.3), HEATHER)


def mead_label() -> Image.Image:
    """A label all around a mead bottle, 236 × 90 mm at 300 dpi; its ends meet."""
    sheet = Sheet(240.0, 300)
    _scenery(sheet, -118, 118)
    for x in (-59, 59):
        sheet.text("HEATHER MEAD", x, -22, 12, AMBER)
        sheet.text("Brindlemere · 50 cl", x, -9, 5.4)
    for x in (0, -118, 118):
        sheet.polygon(_hexagon(x, -16, 13), AMBER)
        _bee(sheet, x, -15, 8)
    return _cropped(sheet, 236, 90)


def beaker_print() -> Image.Image:
    """A print for a tapered beaker, 220 × 80 mm at 300 dpi: rings that must stay level."""
    sheet = Sheet(224.0, 300)
    sheet.panel(-110, -38, 110, -31, 0, AMBER)
    sheet.panel(-110, 31, 110, 38, 0, AMBER)
    for column in range(-9, 10):
        x = column * 11.6
        sheet.polygon(_hexagon(x, 22, 5.6), HONEY if column % 2 else AMBER)
    for x in (-62.0, 62.0):
        sheet.disc(x, -6, 19, CREAM)
        sheet.disc(x, -6, 17.4, HONEY)
        _bee(sheet, x, -5, 11)
    sheet.text("WARM MEAD", 0, -10, 10, HONEY)
    sheet.text("at the stall", 0, 2, 6, HONEY)
    return _cropped(sheet, 220, 80)


def banner_side(words: str, below: str, ground: Paint, light: Paint) -> Image.Image:
    """A side of a hanging banner, 300 × 420 mm at 160 dpi, without an empty place."""
    sheet = Sheet(424.0, 160)
    sheet.panel(-150, -210, 150, 210, 0, ground)
    for row in range(-9, 10):
        for column in range(-4, 5):
            if abs(row) > 4:
                x, y = (column + (row % 2) / 2) * 34, row * 24.0
                sheet.polygon(_hexagon(x, y, 15), light)
    sheet.polygon(_hexagon(0, -10, 92), CREAM)
    sheet.polygon(_hexagon(0, -10, 86), light)
    _bee(sheet, 0, -36, 34)
    sheet.text(words, 0, 34, 22, BARK)
    sheet.panel(-140, 112, 140, 150, 4, CREAM)
    sheet.text(below, 0, 131, 15, BARK)
    return _cropped(sheet, 300, 420)


def srgb_bytes() -> bytes:
    """The sRGB profile that the drawn artwork embeds."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
