#!/usr/bin/env python3
# SPDX-License-Identifier: Apache-2.0
"""Writes docs/figures.md from a run of the benchmarks.

    build/fell-bench --benchmark_out=run.json --benchmark_out_format=json
    bench/write_figures.py run.json         # keeps what is needed of it in docs/figures.json, and writes docs/figures.md
    bench/write_figures.py --print          # writes docs/figures.md from docs/figures.json to standard output
"""
import json
import pathlib
import sys

ROOT = pathlib.Path(__file__).parent.parent
KEPT = ROOT / "docs/figures.json"
OWN = {"name", "family_index", "per_family_instance_index", "run_name", "run_type", "repetitions", "repetition_index", "threads",
       "iterations", "real_time", "cpu_time", "time_unit", "ratio", "low", "high"}


def plain(name):
    """Without what only says how long it runs."""
    return "/".join(part for part in name.split("/") if not part.startswith(("iterations:", "min_time:", "real_time")))


def figure(value):
    return f"{value:,.0f}" if abs(value) >= 1000 else f"{value:.3g}"


def keep(run):
    context = run["context"]
    return {"date": context["date"][:10], "mhz": context["mhz_per_cpu"], "cores": context["num_cpus"],
            "benchmarks": {plain(one["name"]): {key: value for key, value in one.items() if key not in OWN - {"ratio", "low", "high"}}
                           for one in run["benchmarks"] if "ratio" in one}}


def page(kept):
    lines = ["# Figures", "",
             "Written by `bench/write_figures.py` from one run of `build/fell-bench`. Each figure compares two ways of the same work within one run,",
             "after both gave the same answer. `this_over_that` is the cost of this divided by the cost of that. Brackets contain the 95 % interval",
             f"where the two were timed in turn. [Targets](targets.md) explains the figures. Measured on {kept['date']}: {kept['cores']} cores, "
             f"{kept['mhz'] / 1000:.1f} GHz.", ""]
    area = ""
    for name, of in sorted(kept["benchmarks"].items()):
        if name.split("/")[0] != area:
            area = name.split("/")[0]
            lines += [f"## {area}", "| benchmark | ratio | more |", "| --- | --- | --- |"]
        interval = f" ({figure(of['low'])} to {figure(of['high'])})" if "low" in of and "high" in of else ""
        more = ", ".join(f"{key} {figure(value)}" for key, value in sorted(of.items())
                         if key not in ("ratio", "low", "high") and isinstance(value, (int, float)))
        lines.append(f"| `{name.removeprefix(area + '/')}` | {figure(of['ratio'])}{interval} | {more} |")
        following = [other for other in sorted(kept["benchmarks"]) if other > name]
        if not following or following[0].split("/")[0] != area:
            lines.append("")
    return "\n".join(lines)


if __name__ == "__main__":
    if sys.argv[1:] == ["--print"]:
        sys.stdout.write(page(json.loads(KEPT.read_text())))
    elif len(sys.argv) == 2:
        KEPT.write_text(json.dumps(keep(json.loads(pathlib.Path(sys.argv[1]).read_text())), indent=1) + "\n")
        (ROOT / "docs/figures.md").write_text(page(json.loads(KEPT.read_text())))
    else:
        sys.exit(__doc__)
