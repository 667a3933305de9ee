# SPDX-License-Identifier: Apache-2.0
"""Writes chunks in the container fell-chunks (docs/fell-chunks.md), without any package.

    python3 write_chunks.py hill.chunks && fell-cli world import hill.chunks hill.fell
"""
import array
import itertools
import json
import struct
import sys


class ChunkWriter:
    """Chunks of `edge` voxels along the first, second and third axis. `palette`: dictionaries with id and name."""

    def __init__(self, out, edge, palette, **header):
        text = json.dumps({"edge": list(edge), "palette": palette, **header}).encode()
        self.out, self.voxels, self.chunks = out, edge[0] * edge[1] * edge[2], 0
        out.write(b"fell-chunks 1 %d\n" % len(text) + text)

    def add(self, position, ids):
        """`ids`: as many as the chunk has voxels, the first axis fastest, then the second; 0 is air."""
        ids = array.array("H", ids)
        if len(ids) != self.voxels:
            raise ValueError(f"{len(ids)} ids, {self.voxels} are expected")
        runs = b"".join(struct.pack("<IH", len(list(run)), id) for id, run in itertools.groupby(ids))
        encoding = 1
        if len(runs) > 2 * len(ids):
            encoding, runs = 0, struct.pack(f"<{len(ids)}H", *ids)
        self.out.write(b"CHNK" + struct.pack("<iiiBBHI", *position, encoding, 0, 0, len(runs)) + runs)
        self.chunks += 1

    def end(self):
        self.out.write(b"END." + struct.pack("<I", self.chunks))


def hill(out):
    edge, around = 16, 3
    writer = ChunkWriter(out, (edge, edge, edge), [{"id": 1, "name": "slate", "colour": "#828C98"}, {"id": 2, "name": "turf", "colour": "#A3AE78"}],
                         name="Hill", metres=0.5)
    for cz, cy, cx in itertools.product(range(-around, around), range(2), range(-around, around)):
        ids = []
        for k, j, i in itertools.product(range(edge), repeat=3):
            x, y, z = cx * edge + i, cy * edge + j, cz * edge + k
            ground = 28 - (x * x + z * z) // 80
            ids.append(1 if y < ground - 1 else 2 if y < ground else 0)
        writer.add((cx, cy, cz), ids)
    writer.end()


if __name__ == "__main__":
    with open(sys.argv[1], "wb") as file:
        hill(file)
