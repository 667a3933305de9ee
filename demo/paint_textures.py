#!/usr/bin/env python3
# SPDX-License-Identifier: Apache-2.0
"""Paints the textures of Corrowdale's blocks: demo/corrowdale/textures/*.png, 32 x 32 pixels each.

Everything is made here, from the colours of blocks.json, with noise from a fixed seed: run it again and the files come
out the same. Each picture repeats without a seam, because the noise is made on a lattice that wraps.

    /usr/bin/python3 demo/paint_textures.py [folder of a block set, default demo/corrowdale]
"""
import json
import math
import pathlib
import random
import sys

from PIL import Image

EDGE = 32


def lattice(rng, cells):
    return [[rng.random() * 2 - 1 for _ in range(cells)] for _ in range(cells)]


def wrapped_noise(rng, cells, stretch=(1, 1)):
    """Value noise of `cells` x `cells` lattice points over the picture, wrapping; -1 to 1."""
    grid = lattice(rng, cells)

    def at(x, y):
        u, v = x / EDGE * cells / stretch[0], y / EDGE * cells / stretch[1]
        i, j = math.floor(u), math.floor(v)
        s, t = u - i, v - j
        s, t = s * s * (3 - 2 * s), t * t * (3 - 2 * t)
        g = lambda a, b: grid[b % cells][a % cells]
        top = g(i, j) * (1 - s) + g(i + 1, j) * s
        bottom = g(i, j + 1) * (1 - s) + g(i + 1, j + 1) * s
        return top * (1 - t) + bottom * t

    return at


def stones(rng, count):
    """Rounded stones round random points, wrapping: (nearest, second nearest) distance in pixels and the stone."""
    points = [(rng.random() * EDGE, rng.random() * EDGE) for _ in range(count)]

    def at(x, y):
        best = []
        for n, (px, py) in enumerate(points):
            dx = min(abs(x - px), EDGE - abs(x - px))
            dy = min(abs(y - py), EDGE - abs(y - py))
            best.append((math.hypot(dx, dy), n))
        best.sort()
        return best[0][0], best[1][0], best[0][1]

    return at


def rows_of_stone(rng, rows):
    """Courses of a drystone wall: each row of stones of its own widths."""
    courses = []
    for _ in range(rows):
        edges, x = [], rng.randrange(4)
        while x < EDGE:
            edges.append(x)
            x += rng.randrange(6, 12)
        courses.append(edges)

    def at(x, y):
        course = int(y * rows / EDGE)
        within = y * rows / EDGE - course
        edges = courses[course]
        past = [e for e in edges if e <= x]
        left = past[-1] if past else edges[-1] - EDGE
        gap_row = within < 0.16
        gap_side = x - left < 1
        return gap_row or gap_side, course * 17 + left % EDGE

    return at


def paint(kind, part, colour, grain):
    """Brightness, 1 being the block's own colour, of every pixel; and a shift towards another hue where grass grows."""
    rng = random.Random(f"{kind}/{part}")
    fine, mid, broad = wrapped_noise(rng, 32), wrapped_noise(rng, 8), wrapped_noise(rng, 4)
    beds = wrapped_noise(rng, 16, (8, 1))  # long along x: cleavage
    blades = wrapped_noise(rng, 32, (1, 6))  # long along y: blades and bark
    pebble, wall = stones(rng, 26), rows_of_stone(rng, 4)

    def light(x, y):
        f, m, b = fine(x, y), mid(x, y), broad(x, y)
        if kind.startswith("slate") and part == "side":
            return 1 + 0.16 * beds(x, y) + 0.05 * f + (-0.16 if beds(x, y + 1) - beds(x, y) > 0.55 else 0)
        if kind.startswith("slate"):
            return 1 + 0.08 * m + 0.05 * f + 0.05 * b
        if kind in ("scree", "spoil", "shingle"):
            near, second, n = pebble(x, y)
            edge = second - near
            return (0.72 if edge < 0.9 else 1.0) + 0.14 * math.sin(n * 2.4) + 0.05 * f
        if kind == "drystone":
            gap, n = wall(x, y) if part == "side" else (False, 0)
            if part != "side":
                near, second, n = pebble(x, y)
                gap = second - near < 1.1
            return (0.55 if gap else 1.0) + (0 if gap else 0.13 * math.sin(n * 1.7)) + 0.06 * f
        if kind in ("turf", "meadow", "bracken", "heather") and part == "top":
            return 1 + 0.13 * blades(x, y) + 0.09 * m + 0.08 * f
        if kind in ("turf", "meadow", "bracken", "heather"):
            return 1 + 0.10 * wrapped(x, y) + 0.09 * m + 0.07 * f  # sods, cut through
        if kind == "larch-trunk" and part == "side":
            return 1 + 0.22 * blades(x, y) + 0.05 * f
        if kind == "larch-trunk":
            ring = math.hypot(x - 15.5, y - 15.5)
            return 1 + 0.10 * math.sin(ring * 1.5) + 0.05 * f
        if kind == "larch-needles":
            return 0.95 + 0.26 * f * blades(x, y) + 0.14 * m
        if kind == "water":
            return 1 + 0.05 * wrapped(x, y) + 0.03 * b
        return 1 + 0.10 * f + 0.10 * m + 0.05 * b

    wrapped = wrapped_noise(random.Random("ripple"), 8, (2, 1))
    strength = 0.5 + 2.2 * grain
    image = Image.new("RGB", (EDGE, EDGE))
    for y in range(EDGE):
        for x in range(EDGE):
            factor = 1 + (light(x, y) - 1) * strength
            image.putpixel((x, y), tuple(max(0, min(255, round(c * factor))) for c in colour))
    return image


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
            colour = rgb(block.get(part, block["side"]))
            picture = paint(block["name"], part, colour, block.get("grain", 0.06))
            picture.save(folder / file, optimize=True)


if __name__ == "__main__":
    main()
