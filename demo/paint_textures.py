#!/usr/bin/env python3
# SPDX-License-Identifier: Apache-2.0
"""Draws the textures of Corrowdale's blocks: demo/corrowdale/textures/*.png, 32 x 32 pixels each.

The look is a survey sheet: a soft wash of the block's colour from blocks.json, and strokes of ink on top. Ground has
tufts, its sides have hachures that run down the slope from an inked edge, slate has cleavage lines, stones have outlines,
water has ripple lines. Everything is drawn four times as large on a sheet that wraps, so a picture repeats without a
seam. The random numbers have a fixed seed: run it again and the files are the same.

    /usr/bin/python3 demo/paint_textures.py [folder of a block set, default demo/corrowdale]
"""
import json
import math
import pathlib
import random
import sys

from PIL import Image, ImageChops, ImageDraw, ImageFilter

EDGE, OVER = 32, 4
BIG = EDGE * OVER
INK = (46, 42, 44)
WATER_INK = (40, 74, 98)


class Sheet:
    """A wash of one colour with ink on top. Positions are pixels of the finished picture; what leaves it on one side
    comes back on the other."""

    def __init__(self, name, colour):
        self.rng = random.Random(name)
        self.colour = colour
        self.ink = Image.new("L", (BIG, BIG), 0)  # how much ink
        self.tint = Image.new("L", (BIG, BIG), 128)  # brightness of the wash, 128: the colour itself

    def _each_copy(self, points):
        for dx in (-EDGE, 0, EDGE):
            for dy in (-EDGE, 0, EDGE):
                yield [((x + dx) * OVER, (y + dy) * OVER) for x, y in points]

    def stroke(self, points, width=0.8, ink=150):
        layer = Image.new("L", (BIG, BIG), 0)
        draw = ImageDraw.Draw(layer)
        for copy in self._each_copy(points):
            draw.line(copy, fill=ink, width=max(1, round(width * OVER)), joint="curve")
        self.ink = ImageChops.lighter(self.ink, layer)

    def dot(self, x, y, radius=0.6, ink=150):
        draw = ImageDraw.Draw(self.ink)
        for ((cx, cy),) in self._each_copy([(x, y)]):
            r = radius * OVER
            draw.ellipse((cx - r, cy - r, cx + r, cy + r), fill=ink)

    def fill(self, points, light):
        """A patch of the wash, `light` from -1 (dark) to 1."""
        draw = ImageDraw.Draw(self.tint)
        for copy in self._each_copy(points):
            draw.polygon(copy, fill=round(128 + 127 * light))

    def wash(self, blots=7, light=0.10):
        """Uneven drying of the paint."""
        for _ in range(blots):
            x, y, r = self.rng.uniform(0, EDGE), self.rng.uniform(0, EDGE), self.rng.uniform(4, 9)
            ring = [(x + r * math.cos(a / 9 * math.tau) * self.rng.uniform(0.7, 1.2),
                     y + r * math.sin(a / 9 * math.tau) * self.rng.uniform(0.7, 1.2)) for a in range(9)]
            self.fill(ring, self.rng.uniform(-light, light))

    def picture(self, ink_colour=INK):
        def blurred(layer, radius):
            wide = Image.new("L", (BIG * 3, BIG * 3))
            for i in range(9):
                wide.paste(layer, (i % 3 * BIG, i // 3 * BIG))
            return wide.filter(ImageFilter.GaussianBlur(radius)).crop((BIG, BIG, BIG * 2, BIG * 2))

        tint = blurred(self.tint, 4).resize((EDGE, EDGE), Image.BOX)
        ink = blurred(self.ink, 1).resize((EDGE, EDGE), Image.BOX)
        out = Image.new("RGB", (EDGE, EDGE))
        for y in range(EDGE):
            for x in range(EDGE):
                bright = 1 + (tint.getpixel((x, y)) - 128) / 127
                share = ink.getpixel((x, y)) / 255
                out.putpixel((x, y), tuple(
                    max(0, min(255, round(c * bright * (1 - share) + i * share))) for c, i in zip(self.colour, ink_colour)))
        return out


def tuft(sheet, x, y, size, blades=3, ink=120):
    for i in range(blades):
        lean = (i - (blades - 1) / 2) * 0.55
        sheet.stroke([(x + lean * size * 0.3, y), (x + lean * size, y - size * (1 - abs(lean) * 0.4))], 0.6, ink)


def scattered(sheet, count, apart):
    """Places that keep their distance from each other, wrapping."""
    places = []
    for _ in range(400):
        x, y = sheet.rng.uniform(0, EDGE), sheet.rng.uniform(0, EDGE)
        if all(math.hypot(min(abs(x - a), EDGE - abs(x - a)), min(abs(y - b), EDGE - abs(y - b))) >= apart for a, b in places):
            places.append((x, y))
        if len(places) == count:
            break
    return places


def hachures(sheet, ink=120, depth=(9, 21)):
    """The inked edge of a step, and strokes that run down from it."""
    sheet.stroke([(-1, 0.7), (EDGE + 1, 0.7)], 1.5, 150)
    x = 0.0
    while x < EDGE - 1.2:
        length = sheet.rng.uniform(*depth)
        lean = sheet.rng.uniform(-0.9, 0.9)
        sheet.stroke([(x, 1), (x + lean * 0.5, length * 0.6)], 0.9, ink)
        sheet.stroke([(x + lean * 0.5, length * 0.55), (x + lean, length)], 0.45, ink)
        x += sheet.rng.uniform(2.4, 3.7)


def beds(sheet, count, ink, slope=0.05):
    """Cleavage: long lines that break off, with a lighter bed here and there."""
    for i in range(count):
        y = (i + sheet.rng.uniform(0.2, 0.8)) * EDGE / count
        if sheet.rng.random() < 0.4:
            h = EDGE / count * 0.8
            sheet.fill([(-1, y), (EDGE + 1, y), (EDGE + 1, y + h), (-1, y + h)], sheet.rng.uniform(-0.07, 0.07))
        x = sheet.rng.uniform(0, EDGE)
        for _ in range(2):
            length = sheet.rng.uniform(7, 15)
            points = [(x + t * length, y + t * length * slope + sheet.rng.uniform(-0.25, 0.25)) for t in (0, 0.33, 0.66, 1)]
            sheet.stroke(points, sheet.rng.choice((0.5, 0.8)), ink)
            x += length + sheet.rng.uniform(2, 6)


def stones(sheet, apart, ink, light=0.08):
    for x, y in scattered(sheet, 60, apart):
        r, turn = apart * 0.52, sheet.rng.uniform(0, 1)
        ring = [(x + r * sheet.rng.uniform(0.78, 1.05) * math.cos((i + turn) / 7 * math.tau),
                 y + r * sheet.rng.uniform(0.6, 0.9) * math.sin((i + turn) / 7 * math.tau)) for i in range(7)]
        sheet.fill(ring, sheet.rng.uniform(-light, light * 1.4))
        sheet.stroke(ring + ring[:2], 0.6, ink)
        sheet.stroke([(px + 0.4, py + 0.5) for px, py in ring[:3]], 0.6, ink)  # the shadow side


def courses(sheet, rows, ink):
    """A drystone wall: the widths of stones differ from course to course."""
    high = EDGE / rows
    for row in range(rows):
        y, x = row * high, sheet.rng.uniform(0, 6)
        start = x
        while x < start + EDGE - 4:
            width = min(sheet.rng.uniform(6, 11), start + EDGE - x)
            ring = [(x + 0.7, y + 0.9), (x + width - 0.6, y + sheet.rng.uniform(0.5, 1.2)),
                    (x + width - 0.5, y + high - 0.6), (x + 0.5, y + high - sheet.rng.uniform(0.4, 1.0))]
            sheet.fill(ring, sheet.rng.uniform(-0.06, 0.12))
            sheet.stroke(ring + ring[:2], 0.7, ink)
            x += width


def draw(kind, part, colour):
    sheet = Sheet(f"{kind}/{part}", colour)
    rng = sheet.rng
    sheet.wash()
    if kind.startswith("slate"):
        if part == "side":
            beds(sheet, 6, 130)
        else:
            for x, y in scattered(sheet, 7, 9):
                sheet.stroke([(x, y), (x + rng.uniform(4, 7), y + rng.uniform(-0.5, 0.2))], 0.55, 80)
    elif kind in ("scree", "spoil", "shingle"):
        stones(sheet, {"scree": 6.6, "spoil": 8.0, "shingle": 5.2}[kind], 120 if part != "bottom" else 80)
    elif kind == "drystone":
        courses(sheet, 4, 140) if part == "side" else stones(sheet, 9.5, 130)
    elif kind == "quarry-floor":
        if part == "side":
            beds(sheet, 5, 110)
        else:
            for x, y in scattered(sheet, 5, 10):
                for i in range(3):
                    sheet.stroke([(x + i * 1.5, y), (x + i * 1.5 + 2.2, y - 2.6)], 0.45, 75)
            for x, y in scattered(sheet, 8, 5):
                sheet.dot(x, y, 0.4, 90)
    elif kind in ("turf", "meadow", "bracken", "heather", "peat") and part == "top":
        if kind == "peat":  # the sign of a moss
            for x, y in scattered(sheet, 4, 11):
                sheet.stroke([(x - 3, y), (x + 3, y)], 0.6, 130)
                tuft(sheet, x, y - 0.4, 2.4, 3, 130)
        elif kind == "heather":
            for x, y in scattered(sheet, 10, 7):
                tuft(sheet, x, y, 2.2, 2, 100)
                sheet.dot(x - 0.8, y - 2.6, 0.6, 110)
        elif kind == "bracken":
            for x, y in scattered(sheet, 7, 8.5):
                sheet.stroke([(x, y), (x + 0.6, y - 5)], 0.5, 110)
                for i in range(3):
                    sheet.stroke([(x - 1.6 + i * 0.3, y - 2 - i * 1.2), (x + 0.2 + i * 0.1, y - 1.2 - i * 1.3), (x + 2 - i * 0.2, y - 2.2 - i * 1.2)], 0.45, 100)
        else:
            for x, y in scattered(sheet, 6 if kind == "turf" else 4, 9):
                tuft(sheet, x, y, rng.uniform(2.4, 3.4), 3, 100 if kind == "turf" else 80)
    elif kind in ("turf", "meadow", "bracken", "heather", "peat", "earth") and part == "side":
        hachures(sheet)
    elif kind == "larch-trunk" and part == "side":
        for i in range(9):
            x = i * EDGE / 9 + rng.uniform(-0.8, 0.8)
            y = rng.uniform(0, EDGE)
            sheet.stroke([(x, y), (x + rng.uniform(-1, 1), y + 9), (x + rng.uniform(-1, 1), y + rng.uniform(14, 24))], 0.7, 140)
    elif kind == "larch-trunk":
        for r in (3, 6, 9.5, 13):
            ring = [(16 + r * math.cos(a / 24 * math.tau) + rng.uniform(-0.3, 0.3), 16 + r * math.sin(a / 24 * math.tau)) for a in range(25)]
            sheet.stroke(ring, 0.5, 120)
    elif kind == "larch-needles":
        for x, y in scattered(sheet, 14, 6):
            for i in range(4):
                a = rng.uniform(0, math.tau)
                sheet.stroke([(x, y), (x + 3 * math.cos(a), y + 3 * math.sin(a))], 0.5, 120)
    elif kind == "water":
        for row in range(5):
            y, x, phase = (row + 0.5) * EDGE / 5, rng.uniform(0, EDGE), rng.uniform(0, 6)
            length = rng.uniform(12, 24)
            sheet.stroke([(x + t / 8 * length, y + 0.5 * math.sin(phase + t * 0.9)) for t in range(9)], 0.5, 85)
    elif kind == "track" and part == "top":
        for x, y in scattered(sheet, 18, 4.5):
            sheet.dot(x, y, rng.uniform(0.3, 0.5), 95)
    else:
        for x, y in scattered(sheet, 12, 6):
            sheet.stroke([(x, y), (x + rng.uniform(1.5, 3), y + rng.uniform(-0.4, 0.4))], 0.5, 85)
    return sheet.picture(WATER_INK if kind == "water" else INK)


def rgb(text):
    return tuple(int(text[i:i + 2], 16) for i in (1, 3, 5))


def main():
    folder = pathlib.Path(sys.argv[1] if len(sys.argv) > 1 else pathlib.Path(__file__).parent / "corrowdale")
    out = folder / "textures"
    out.mkdir(exist_ok=True)
    for block in json.loads((folder / "blocks.json").read_text())["blocks"]:
        for file in sorted(set(block.get("textures", {}).values())):
            name, part = pathlib.Path(file).stem.rsplit("-", 1)  # e.g. textures/slate-blue-top.png
            if name != block["name"]:
                continue  # borrowed from another block
            draw(block["name"], part, rgb(block.get(part, block["side"]))).save(folder / file, optimize=True)


if __name__ == "__main__":
    main()
