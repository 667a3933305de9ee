#!/usr/bin/env python3
# SPDX-License-Identifier: Apache-2.0
"""Makes the models of Corrowdale's shaped blocks beside this script: cairn.gltf, lamp-post.gltf, drystone-wall.obj,
ore-cart.obj and rail.obj. One unit is one voxel, the origin is the middle of the voxel's floor, y is up.

    /usr/bin/python3 demo/models/make_models.py
"""
import base64
import json
import math
import pathlib
import random
import struct

HERE = pathlib.Path(__file__).parent


def box(low, high, colour, taper=0.0):
    """A box from low to high whose top is drawn in by `taper` on each side."""
    (x0, y0, z0), (x1, y1, z1) = low, high
    t = taper
    p = [(x0, y0, z0), (x1, y0, z0), (x1, y0, z1), (x0, y0, z1),
         (x0 + t, y1, z0 + t), (x1 - t, y1, z0 + t), (x1 - t, y1, z1 - t), (x0 + t, y1, z1 - t)]
    quads = [(0, 1, 2, 3), (4, 7, 6, 5), (3, 2, 6, 7), (1, 0, 4, 5), (2, 1, 5, 6), (0, 3, 7, 4)]
    return [(colour, (p[a], p[b], p[c])) for q in quads for a, b, c in ((q[0], q[1], q[2]), (q[0], q[2], q[3]))]


def stone(rng, y0, y1, radius, colour, sides=7):
    """A flat stone: an uneven ring with a lid."""
    low, high, lean = [], [], rng.uniform(-0.04, 0.04)
    for i in range(sides):
        a = math.tau * (i + rng.uniform(-0.2, 0.2)) / sides
        r = radius * rng.uniform(0.85, 1.08)
        low.append((math.cos(a) * r, y0, math.sin(a) * r))
        high.append((math.cos(a) * r * 0.86 + lean, y1, math.sin(a) * r * 0.86))
    top, out = (lean, y1, 0.0), []
    for i in range(sides):
        j = (i + 1) % sides
        out += [(colour, (low[i], high[i], high[j])), (colour, (low[i], high[j], low[j])), (colour, (top, high[j], high[i]))]
    return out


def cylinder(x, y, z, radius, length, colour, sides=10):
    """A wheel that lies along z."""
    ring = [(x + radius * math.cos(math.tau * i / sides), y + radius * math.sin(math.tau * i / sides)) for i in range(sides)]
    out = []
    for i in range(sides):
        (ax, ay), (bx, by) = ring[i], ring[(i + 1) % sides]
        near, far = z + length / 2, z - length / 2
        out += [(colour, ((ax, ay, near), (ax, ay, far), (bx, by, far))), (colour, ((ax, ay, near), (bx, by, far), (bx, by, near))),
                (colour, ((x, y, near), (ax, ay, near), (bx, by, near))), (colour, ((x, y, far), (bx, by, far), (ax, ay, far)))]
    return out


def cairn():
    rng, out, y = random.Random("cairn"), [], 0.0
    greys = [(0x7C, 0x7F, 0x82), (0x8B, 0x8E, 0x90), (0x6C, 0x74, 0x80), (0x9A, 0x9C, 0x98)]
    for n, radius in enumerate((0.44, 0.40, 0.33, 0.27, 0.19, 0.12)):
        height = rng.uniform(0.12, 0.19)
        courses = stone(rng, y, y + height, radius, greys[n % 4])
        if n == 0:  # closed below: it may stand on glass
            ring = [corners[0] for _, corners in courses[0::3]]
            out += [(greys[0], ((0.0, 0.0, 0.0), ring[i], ring[(i + 1) % len(ring)])) for i in range(len(ring))]
        out += courses
        y += height
    return out


def lamp_post():
    wood, iron, glass = (0x5A, 0x44, 0x32), (0x2E, 0x33, 0x38), (0xF0, 0xC8, 0x6E)
    return (box((-0.08, 0, -0.08), (0.08, 1.9, 0.08), wood) + box((-0.2, 0, -0.2), (0.2, 0.14, 0.2), (0x7C, 0x7F, 0x82), 0.05)
            + box((0.0, 1.74, -0.05), (0.42, 1.84, 0.05), wood) + box((0.26, 1.30, -0.14), (0.54, 1.66, 0.14), glass, 0.02)
            + box((0.22, 1.66, -0.18), (0.58, 1.74, 0.18), iron, 0.08) + box((0.24, 1.24, -0.16), (0.56, 1.30, 0.16), iron))


def drystone_wall():
    rng, out = random.Random("wall"), []
    out += box((-0.5, 0, -0.5), (0.5, 0.72, 0.5), (0x8E, 0x90, 0x8C), 0.10)
    for i in range(4):  # the coping: stones on edge
        x = -0.38 + i * 0.25
        height = rng.uniform(0.88, 1.0)
        out += box((x - 0.10, 0.72, -0.42), (x + 0.10, height, 0.42), rng.choice([(0x9A, 0x9C, 0x98), (0x7F, 0x81, 0x7E), (0xB4, 0xB5, 0xAF)]), 0.03)
    return out


def ore_cart():
    plank, iron, ore = (0x6A, 0x4D, 0x38), (0x3A, 0x3F, 0x45), (0x56, 0x62, 0x73)
    out = box((-0.46, 0.26, -0.36), (0.46, 0.34, 0.36), iron) + box((-0.44, 0.34, -0.34), (0.44, 0.74, 0.34), plank, -0.04)
    out += box((-0.40, 0.74, -0.30), (0.40, 0.90, 0.30), ore, 0.12)
    for x in (-0.28, 0.28):
        for z in (-0.36, 0.36):
            out += cylinder(x, 0.16, z, 0.16, 0.08, iron)
    return out


def rail():
    """Runs along x under the cart's wheels; the sleepers lie a third of a voxel apart."""
    iron, wood = (0x6E, 0x6A, 0x66), (0x54, 0x40, 0x30)
    out = []
    for x in (-0.33, 0.0, 0.33):
        out += box((x - 0.08, 0, -0.46), (x + 0.08, 0.06, 0.46), wood)
    for z in (-0.32, 0.32):
        out += box((-0.5, 0.06, z - 0.035), (0.5, 0.13, z + 0.035), iron)
    return out


def linear(c):
    c /= 255
    return c / 12.92 if c <= 0.04045 else ((c + 0.055) / 1.055) ** 2.4


def write_gltf(name, triangles):
    colours = sorted({c for c, _ in triangles})
    data, views, accessors, primitives = b"", [], [], []
    for n, colour in enumerate(colours):
        points = [p for c, t in triangles if c == colour for p in t]
        views.append({"buffer": 0, "byteOffset": len(data), "byteLength": len(points) * 12, "target": 34962})
        data += b"".join(struct.pack("<3f", *p) for p in points)
        accessors.append({"bufferView": n, "componentType": 5126, "count": len(points), "type": "VEC3",
                          "min": [min(p[i] for p in points) for i in range(3)], "max": [max(p[i] for p in points) for i in range(3)]})
        primitives.append({"attributes": {"POSITION": n}, "material": n, "mode": 4})
    # JSON holds more digits than a 32-bit float: what it says of the range must be what is stored.
    for a in accessors:
        for key in ("min", "max"):
            a[key] = [struct.unpack("<f", struct.pack("<f", v))[0] for v in a[key]]
    model = {"asset": {"version": "2.0", "generator": "demo/models/make_models.py"}, "scene": 0, "scenes": [{"nodes": [0]}],
             "nodes": [{"mesh": 0, "name": name}], "meshes": [{"name": name, "primitives": primitives}],
             "materials": [{"pbrMetallicRoughness": {"baseColorFactor": [round(linear(c), 5) for c in colour] + [1],
                                                     "metallicFactor": 0, "roughnessFactor": 1}} for colour in colours],
             "accessors": accessors, "bufferViews": views,
             "buffers": [{"byteLength": len(data), "uri": "data:application/octet-stream;base64," + base64.b64encode(data).decode()}]}
    (HERE / f"{name}.gltf").write_text(json.dumps(model, indent=1) + "\n")


def write_obj(name, triangles):
    colours = sorted({c for c, _ in triangles})
    (HERE / f"{name}.mtl").write_text("".join(
        f"newmtl c{n}\nKd {c[0] / 255:.4f} {c[1] / 255:.4f} {c[2] / 255:.4f}\n" for n, c in enumerate(colours)))
    points, lines = {}, []
    for n, colour in enumerate(colours):
        lines.append(f"usemtl c{n}")
        for c, t in triangles:
            if c == colour:
                lines.append("f " + " ".join(str(points.setdefault(p, len(points) + 1)) for p in t))
    vertices = [f"v {x:.4f} {y:.4f} {z:.4f}" for x, y, z in points]
    (HERE / f"{name}.obj").write_text("\n".join([f"# made by make_models.py", f"mtllib {name}.mtl", f"o {name}"] + vertices + lines) + "\n")


if __name__ == "__main__":
    write_gltf("cairn", cairn())
    write_gltf("lamp-post", lamp_post())
    write_obj("drystone-wall", drystone_wall())
    write_obj("ore-cart", ore_cart())
    write_obj("rail", rail())
