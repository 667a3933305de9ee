# SPDX-License-Identifier: Apache-2.0
"""Every command line of fell-cli in the README and the documents runs, in their order, in a folder that has what a reader
has: a height map, two volumes, and a ledger with some runs. Only sizes are smaller than in the text."""
import os, pathlib, re, shlex, shutil, struct, subprocess, sys, tempfile, time

root, build = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
# What only costs time. Each must be in some document, or this list is stale.
SMALLER = {"--rounds 6": "--rounds 2 --frames 2",  "--frames 400": "--frames 20",
           "--cases 5000": "--cases 20", "=4,6,8": "=1,2 --rounds 2 --frames 2 ", "=2,4 ": "=1,2 ", "none,lamp-sky,colour --churn": "none,colour --rounds 2 --frames 2 --churn",
           "mesh.mesher=exposed,greedy-bits  ": "mesh.mesher=exposed,greedy-bits --rounds 2 --frames 2 ",
           "seams --setup long-view": "seams --quick --setup long-view", "audit mesh,light,cull --quick": "audit cull --quick", "reach --world cave.fell": "reach --world cave.fell --farthest 3 --frames 4"}
unused, wrong, seen = set(SMALLER), [], {}
documents = [root / "README.md", *sorted((root / "docs").rglob("*.md"))]


def volume(file, kind, size, values):
    head = f"NRRD0004\ntype: {kind}\ndimension: 3\nsizes: {size} {size} {size}\nencoding: raw\nendian: little\n\n"
    file.write_bytes(head.encode() + b"".join(values))


def fill(folder):
    subprocess.run([sys.executable, root / "tests/support/make_png.py", folder / "dem.png", "16", "96", "96", "200 * x + 100 * y"], check=True)
    places = [(x, y, z) for z in range(32) for y in range(32) for x in range(32)]
    volume(folder / "scan.nrrd", "float", 32, (struct.pack("<f", 1.0 if (x - 16) ** 2 + (y - 16) ** 2 + (z - 16) ** 2 < 150 else 0.0) for x, y, z in places))
    volume(folder / "engine.nrrd", "uint16", 32, (struct.pack("<H", 3 if y < 16 else 7 if y == 16 and x % 8 == 0 else 0) for x, y, z in places))
    subprocess.run([sys.executable, root / "examples/chunk-writers/write_chunks.py", folder / "hill.chunks"], check=True)
    (folder / "build").symlink_to(build)
    (folder / "my-mesher/build").mkdir(parents=True)
    shutil.copy(build / "tests/methods/libown-mesher.so", folder / "my-mesher/build")
    shutil.copy(build / "tests/methods/libfaulty-build-2.so", folder / "my-mesher/build/libbefore.so")


with tempfile.TemporaryDirectory() as home:
    env = {**os.environ, "HOME": home, "XDG_DATA_HOME": home, "XDG_CONFIG_HOME": home, "XDG_CACHE_HOME": home}

    def run(line, folder):
        line, _, to = line.partition(" > ")
        ran = subprocess.run(shlex.split(line, comments=True), cwd=folder, env=env, capture_output=True, text=True, timeout=200)
        if to:
            (folder / to.strip()).write_text(ran.stdout)
        return ran

    tiny = "build/fell-cli transect --world level --vary stream.distance=1 --rounds 2 --frames 2 --no-draw --quiet --keep"
    for document in documents:
        lines = [line.removeprefix("$ ") for block in re.findall(r"^```\w*\n(.*?)^```", document.read_text(), re.S | re.M)
                 for line in block.split("\n") if line.removeprefix("$ ").startswith("build/fell-cli")]
        with tempfile.TemporaryDirectory() as place:
            folder = pathlib.Path(place)
            fill(folder)
            if any("ledger" in line for line in lines):
                for _ in range(7 - seen.setdefault("runs", 0)):
                    run(tiny, folder)
                seen["runs"] = 7
            for line in lines:
                needs = re.search(r"\b(cave|dale)\.fell", line)
                if line in seen and not (needs and not (folder / needs.group()).exists()):
                    continue  # another document showed it
                seen[line] = True
                short = line + " "
                for long, small in SMALLER.items():
                    if long in short:
                        short = short.replace(long, small)
                        unused.discard(long)
                start = time.monotonic()
                ran = run(short, folder)
                print(f"{time.monotonic() - start:6.1f} s  {short.strip()}")
                if ran.returncode not in ((0, 5) if " gate " in line else (0,)):
                    wrong.append(f"{document.relative_to(root)}: {short.strip()}\n    ended with {ran.returncode}: {(ran.stderr or ran.stdout)[-300:]}")
wrong += [f"no document has {text!r} any more: take it out of SMALLER" for text in sorted(unused)]
print("\n".join(wrong))
sys.exit(bool(wrong) or len(seen) < 20)
