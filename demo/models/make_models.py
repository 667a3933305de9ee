#!/usr/bin/env python3
# SPDX-License-Identifier: Apache-2.0
"""Makes the models of Corrowdale's shaped blocks in the folder of this script: cairn.gltf, miners-lantern.gltf,
lantern-post.gltf, drystone-wall.obj, slate-wagon.obj and tramway.obj. One unit is one voxel, the origin is the middle of
the voxel's floor, y is up.

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


def drum(x, y0, z, low, high, height, colour, sides=8, lid=True):
    """An upright drum whose radius goes from `low` to `high`, with a floor and, if wanted, a lid."""
    turn = math.tau / sides
    ring = lambda r, y: [(x + r * math.cos(i * turn), y, z + r * math.sin(i * turn)) for i in range(sides)]
    under, over, out = ring(low, y0), ring(high, y0 + height), []
    for i in range(sides):
        j = (i + 1) % sides
        out += [(colour, (under[i], over[i], over[j])), (colour, (under[i], over[j], under[j])),
                (colour, ((x, y0, z), under[i], under[j]))]
        if lid:
            out.append((colour, ((x, y0 + height, z), over[j], over[i])))
    return out


def lantern(x, y, z, size):
    """A miner's lantern: an oil pot of brass, a glass, a bonnet of gauze and a hook. `size`: its height in voxels."""
    brass, glass, gauze = (0xC9, 0xA2, 0x4A), (0xFF, 0xE6, 0xA8), (0x4A, 0x48, 0x46)
    s = size
    out = drum(x, y, z, 0.20 * s, 0.20 * s, 0.20 * s, brass) + drum(x, y + 0.20 * s, z, 0.15 * s, 0.15 * s, 0.26 * s, glass)
    out += drum(x, y + 0.46 * s, z, 0.20 * s, 0.18 * s, 0.05 * s, brass) + drum(x, y + 0.51 * s, z, 0.16 * s, 0.07 * s, 0.26 * s, gauze)
    out += drum(x, y + 0.77 * s, z, 0.09 * s, 0.09 * s, 0.04 * s, brass)
    for i in range(3):  # the bars that guard the glass
        a = (i + 0.5) / 3 * math.tau
        bx, bz, r = x + 0.185 * s * math.cos(a), z + 0.185 * s * math.sin(a), 0.015 * s
        out += box((bx - r, y + 0.2 * s, bz - r), (bx + r, y + 0.46 * s, bz + r), brass)
    return out + box((x - 0.02 * s, y + 0.81 * s, z - 0.015 * s), (x + 0.02 * s, y + s, z + 0.015 * s), gauze)


def miners_lantern():
    return lantern(0.0, 0.0, 0.0, 1.0)


def lantern_post():
    """A slab of slate on edge with an iron bracket, from which a lantern hangs."""
    slate, iron = (0x7A, 0x87, 0x98), (0x3A, 0x3F, 0x45)
    return (box((-0.20, 0, -0.06), (0.10, 1.86, 0.06), slate, 0.02) + box((0.08, 1.70, -0.025), (0.44, 1.75, 0.025), iron)
            + box((0.08, 1.46, -0.02), (0.13, 1.70, 0.02), iron) + lantern(0.38, 1.14, 0.0, 0.56))


def drystone_wall():
    rng, out = random.Random("wall"), []
    out += box((-0.5, 0, -0.5), (0.5, 0.72, 0.5), (0x8E, 0x90, 0x8C), 0.10)
    for i in range(4):  # the coping: stones on edge
        x = -0.38 + i * 0.25
        height = rng.uniform(0.88, 1.0)
        out += box((x - 0.10, 0.72, -0.42), (x + 0.10, height, 0.42), rng.choice([(0x9A, 0x9C, 0x98), (0x7F, 0x81, 0x7E), (0xB4, 0xB5, 0xAF)]), 0.03)
    return out


def slate_wagon():
    """A low wagon of iron bars with a load of slates on edge."""
    iron, timber = (0x3A, 0x3F, 0x45), (0x86, 0x69, 0x4F)
    slates = [(0x7A, 0x87, 0x98), (0x82, 0x8C, 0x98), (0x86, 0x92, 0x8B), (0x91, 0x9D, 0xAC)]
    rng = random.Random("wagon")
    out = []
    for z in (-0.30, 0.24):
        out += box((-0.48, 0.22, z), (0.48, 0.30, z + 0.06), timber)
    for x in (-0.48, -0.02, 0.44):
        out += box((x, 0.30, -0.32), (x + 0.04, 0.33, 0.32), iron)
    for x in (-0.48, 0.45):  # the ends, a gate of bars
        for z in (-0.32, -0.015, 0.29):
            out += box((x, 0.30, z), (x + 0.03, 0.72, z + 0.03), iron)
        out += box((x, 0.69, -0.32), (x + 0.03, 0.72, 0.32), iron)
    for row in (-0.15, 0.15):
        x = -0.42
        while x < 0.38:
            thick, lean = rng.uniform(0.035, 0.06), rng.uniform(0.5, 0.62)
            out += box((x, 0.33, row - 0.13), (x + thick, 0.33 + lean * 0.6, row + 0.13), rng.choice(slates))
            x += thick + 0.012
    for x in (-0.26, 0.26):
        for z in (-0.32, 0.32):
            out += cylinder(x, 0.13, z, 0.13, 0.05, iron)
    return out


def tramway():
    """Runs along x: two bars of iron on blocks of stone, as quarries laid them, with no sleepers between."""
    iron = (0x5C, 0x58, 0x56)
    rng, stones = random.Random("tramway"), [(0xA3, 0xA5, 0xA4), (0x98, 0xA0, 0xA8), (0x8B, 0x8D, 0x8C)]
    out = []
    for x in (-0.25, 0.25):
        for z in (-0.32, 0.32):
            half = rng.uniform(0.10, 0.13)
            out += box((x - half, 0, z - half), (x + half, 0.06, z + half), rng.choice(stones), 0.015)
    for z in (-0.32, 0.32):
        out += box((-0.5, 0.06, z - 0.03), (0.5, 0.13, z + 0.03), iron)
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
    write_gltf("miners-lantern", miners_lantern())
    write_gltf("lantern-post", lantern_post())
    write_obj("drystone-wall", drystone_wall())
    write_obj("slate-wagon", slate_wagon())
    write_obj("tramway", tramway())
