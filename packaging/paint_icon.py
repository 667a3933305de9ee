# SPDX-License-Identifier: Apache-2.0
"""Paints the icon: stepped ridges of slate, a tarn, and one contour line. Run it from packaging/: it writes
net.corrowdale.fell.svg, and PNG files of 64 and 128 pixels into icons/."""
from PIL import Image, ImageDraw

SIZE, STEP = 128, 8  # units
RIDGES = [  # height of each column, lowest edge, colour
    ([18, 26, 38, 46, 58, 50, 62, 70, 58, 46, 38, 30, 22, 14], 96, "#98a1a5"),
    ([10, 16, 26, 34, 30, 22, 14, 10, 16, 24, 34, 42, 34, 24], 104, "#6b7276"),
    ([8, 8, 14, 20, 14, 8, 4, 4, 4, 8, 14, 22, 28, 20], 120, "#22282b"),
]
PAPER, WATER, LINE = "#efece3", "#2f6f8f", "#c18f1d"
CONTOUR = [(32, 58), (48, 58), (48, 50), (72, 50), (72, 58), (88, 58), (88, 66), (104, 66)]
RIPPLES = [((48, 108), (88, 108)), ((36, 112), (60, 112)), ((72, 112), (104, 112))]


def outline(heights, base):
    points = [(STEP, base)]
    for i, height in enumerate(heights):
        points += [(STEP * (i + 1), base - height), (STEP * (i + 2), base - height)]
    return points + [(STEP * (len(heights) + 1), base)]


def svg():
    def path(points):
        return "M" + " L".join(f"{x} {y}" for x, y in points)
    far, middle, near = (f'  <path d="{path(outline(h, base))} Z" fill="{colour}"/>\n' for h, base, colour in RIDGES)
    ripples = " ".join(path(ends) for ends in RIPPLES)
    return (f'<svg xmlns="http://www.w3.org/2000/svg" width="{SIZE}" height="{SIZE}" viewBox="0 0 {SIZE} {SIZE}">\n'
            f'  <title>Fell</title>\n  <rect x="4" y="4" width="120" height="120" rx="10" fill="{PAPER}"/>\n{far}{middle}'
            f'  <path d="M8 104 H120 V116 H8 Z" fill="{WATER}"/>\n'
            f'  <path d="{ripples}" stroke="{PAPER}" stroke-width="1.5" fill="none"/>\n{near}'
            f'  <path d="{path(CONTOUR)}" fill="none" stroke="{LINE}" stroke-width="2.5"/>\n</svg>\n')


def png(size):
    scale = 8 * size // SIZE
    image = Image.new("RGBA", (SIZE * scale, SIZE * scale))
    draw = ImageDraw.Draw(image)

    def at(points):
        return [(x * scale, y * scale) for x, y in points]
    draw.rounded_rectangle(at([(4, 4), (124, 124)]), radius=10 * scale, fill=PAPER)
    for heights, base, colour in RIDGES[:2]:
        draw.polygon(at(outline(heights, base)), fill=colour)
    draw.rectangle(at([(8, 104), (120, 116)]), fill=WATER)
    for ends in RIPPLES:
        draw.line(at(ends), fill=PAPER, width=int(1.5 * scale))
    draw.polygon(at(outline(*RIDGES[2][:2])), fill=RIDGES[2][2])
    draw.line(at(CONTOUR), fill=LINE, width=int(2.5 * scale))
    return image.resize((size, size), Image.LANCZOS)


open("net.corrowdale.fell.svg", "w").write(svg())
for size in (64, 128):
    png(size).save(f"icons/{size}.png")
