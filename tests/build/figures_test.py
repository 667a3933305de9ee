# SPDX-License-Identifier: Apache-2.0
"""docs/figures.md is what bench/write_figures.py writes from the kept run, and every benchmark in it still exists."""
import json, pathlib, subprocess, sys

root, build = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
wrong = []
written = subprocess.run([sys.executable, root / "bench/write_figures.py", "--print"], capture_output=True, text=True, timeout=60)
if written.returncode or written.stdout != (root / "docs/figures.md").read_text():
    wrong.append(f"docs/figures.md is stale: run bench/write_figures.py {written.stderr[-200:]}")
listed = subprocess.run([build / "fell-bench", "--benchmark_list_tests"], capture_output=True, text=True, timeout=60).stdout
names = ["/".join(part for part in line.split("/") if not part.startswith(("iterations:", "min_time:", "real_time"))) for line in listed.split("\n")]
kept = json.loads((root / "docs/figures.json").read_text())["benchmarks"]
wrong += [f"docs/figures.md shows {name}, which is no benchmark any more" for name in kept if name not in names]
if len(kept) < 30:
    wrong.append(f"only {len(kept)} figures are kept")
print("\n".join(wrong))
sys.exit(bool(wrong))
