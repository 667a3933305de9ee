# SPDX-License-Identifier: Apache-2.0
"""Writes a PNG from nothing but the standard library: FILE MODE WIDTH HEIGHT EXPRESSION of x and y; MODE is 8, 16 or rgb."""
import struct, sys, zlib

file, mode, width, height, expression = sys.argv[1], sys.argv[2], int(sys.argv[3]), int(sys.argv[4]), sys.argv[5]
code = compile(expression, "expression", "eval")
pack = {"8": lambda v: struct.pack(">B", v), "16": lambda v: struct.pack(">H", v), "rgb": lambda v: struct.pack(">BBB", *v)}[mode]
rows = b"".join(b"\0" + b"".join(pack(eval(code, {"x": x, "y": y})) for x in range(width)) for y in range(height))


def chunk(kind, data):
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


head = struct.pack(">IIBBBBB", width, height, 16 if mode == "16" else 8, 2 if mode == "rgb" else 0, 0, 0, 0)
with open(file, "wb") as out:
    out.write(b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b""))
