# SPDX-License-Identifier: Apache-2.0
"""The first commands of docs/howto/own-mesher.md lead from the example to a ratio: at most five, in a folder that has what a
clone has. Says how long they took, and keeps nothing."""
import pathlib, re, shutil, subprocess, sys, tempfile, time

root, build = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()
lines = re.search(r"^```bash\n(.*?)^```", (root / "docs/howto/own-mesher.md").read_text(), re.S | re.M).group(1).strip().split("\n")
assert 3 <= len(lines) <= 5, lines
with tempfile.TemporaryDirectory() as place:
    folder = pathlib.Path(place)
    for name in ("examples", "include"):
        (folder / name).symlink_to(root / name)
    (folder / "build").symlink_to(build)
    start, out = time.monotonic(), ""
    for line in lines:
        ran = subprocess.run(line, shell=True, cwd=folder, capture_output=True, text=True, timeout=200)
        if ran.returncode:
            sys.exit(f"{line}: {ran.returncode}\n{ran.stdout[-500:]}{ran.stderr[-500:]}")
        out = ran.stdout
    print(f"{len(lines)} commands, {time.monotonic() - start:.1f} s")
    print(out)
    if not re.search(r"^A needs [0-9.]+x the mesh time a voxel of B \([0-9.]+ to [0-9.]+", out, re.M) or "DIFFER" in out:
        sys.exit("the last command printed no ratio")
    # The same mesher in Rust, where its compiler runs.
    if shutil.which("rustc") and subprocess.run(["rustc", "--version"], capture_output=True).returncode == 0:
        library = folder / "librust.so"
        subprocess.run(["rustc", "-O", "--edition", "2021", "--crate-type", "cdylib", root / "examples/own-mesher-rust/own_mesher.rs", "-o", library], check=True, timeout=200)
        ran = subprocess.run([build / "fell-cli", "mesh", "--chunks", "4", "--method", folder / "my-mesher/build/libown-mesher.so", "--method", library], capture_output=True, text=True, timeout=200)
        if ran.returncode or "DIFFER" in ran.stdout:
            sys.exit(f"the mesher in Rust: {ran.returncode}\n{ran.stdout[-500:]}{ran.stderr[-500:]}")
        print("Rust:\n" + ran.stdout)
    else:
        print("there is no rustc here: the mesher in Rust was not built")
