# SPDX-License-Identifier: Apache-2.0
"""The writers of examples/chunk-writers write the same hill; it is imported from a file and from standard input, and has the
voxels that its formula says."""
import json, pathlib, subprocess, sys, tempfile

root, build = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()
source = root / "examples/chunk-writers"
wanted = sum(max(0, min(32, 28 - (x * x + z * z) // 80)) for x in range(-48, 48) for z in range(-48, 48))
with tempfile.TemporaryDirectory() as place:
    folder = pathlib.Path(place)
    subprocess.run(["cc", "-std=c11", "-Wall", "-Wextra", "-Werror", "-O1", source / "write_chunks.c", "-o", folder / "write"], check=True)
    with open(folder / "c.chunks", "wb") as out:
        subprocess.run([folder / "write"], stdout=out, check=True)
    subprocess.run([sys.executable, source / "write_chunks.py", folder / "python.chunks"], check=True)
    for name, given in (("c.chunks", None), ("python.chunks", None), ("-", (folder / "c.chunks").read_bytes())):
        world = folder / "w.fell"
        ran = subprocess.run([build / "fell-cli", "world", "import", name, "w.fell", "--json"], cwd=folder, input=given, capture_output=True, timeout=200)
        if ran.returncode:
            sys.exit(f"{name}: {ran.returncode}\n{ran.stderr.decode()[-500:]}")
        said = json.loads(ran.stdout)
        if said["edits"] != wanted or said["size"] != [96, 32, 96]:
            sys.exit(f"{name}: {said}, {wanted} voxels of 96 x 32 x 96 are expected")
        world.unlink()
    ran = subprocess.run([build / "fell-cli", "world", "import", "c.chunks", "w.fell", "--ids", "1=slate"], cwd=folder, capture_output=True, text=True)
    if ran.returncode != 2 or "chunks say their materials and lengths themselves" not in ran.stderr:
        sys.exit(f"--ids: {ran.returncode} {ran.stderr}")
    # Cut short on its way: nothing is left.
    ran = subprocess.run([build / "fell-cli", "world", "import", "-", "w.fell"], cwd=folder, input=(folder / "c.chunks").read_bytes()[:-9], capture_output=True, timeout=200)
    if ran.returncode != 2 or b"standard input, at byte" not in ran.stderr or list(folder.glob("w.fell*")):
        sys.exit(f"cut short: {ran.returncode} {ran.stderr} {list(folder.iterdir())}")
