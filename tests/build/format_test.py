# SPDX-License-Identifier: Apache-2.0
"""All C++ sources are as clang-format 14 writes them."""
import pathlib, subprocess, sys

root = pathlib.Path(sys.argv[1])
files = [f for d in ("core", "gpu", "cli", "app", "tests", "bench", "tour") for f in sorted((root / d).rglob("*")) if f.suffix in (".cpp", ".h")]
assert len(files) > 100, "the sources were not found"
run = subprocess.run(["clang-format", "--dry-run", "-Werror", *map(str, files)], capture_output=True, text=True)
print(run.stderr[:3000])
sys.exit(run.returncode)
