# SPDX-License-Identifier: Apache-2.0
"""Every command of fell-cli that prints a document, in a form that takes a moment. {w} is a world file, {s} a folder."""

WORLD = "--set stream.distance=1 --set chunk.edge=16 --set light.mode=none"
DOCUMENTS = [
    ("fell-stages", "stages --json", 0),
    ("fell-mesh", "mesh --chunks 1 --repeat 1 --json", 0),
    ("fell-mesh-comparison", "mesh --a mesh.mesher=exposed --chunks 1 --repeat 2 --json", 0),
    ("fell-store", "store --chunks 1 --form palette,array --json", 0),
    ("fell-light", "light --box 2x2x2 --lamps 4 --repeat 1 --json", 0),
    ("fell-transect", f"transect {WORLD} --vary mesh.mesher=exposed,greedy --rounds 2 --frames 1 --no-draw --no-audit --json --out {{s}}/t", 0),
    ("fell-transect", f"transect {WORLD} --vary mesh.shade=none --vary mesh.layout=corners,packed --a mesh.mesher=greedy --b mesh.mesher=exposed --churn blocks:1 --rounds 2 --frames 1 --size 32x32 --json --ledger {{s}}/l.db", 0),
    ("fell-transect", "transect --set chunk.edge=16 --set light.mode=none --world level --vary stream.distance=1,2,3 --rounds 3 --frames 1 --size 32x32 --set draw.budget=1000 --json", 0),
    ("fell-transect", "transect --vary stream.distance=9 --set chunk.edge=16 --set light.mode=none --rounds 3 --frames 1 --no-draw --no-audit --method {m}/libfaulty-late.so --json", 1),
    ("fell-reach", "reach --set chunk.edge=16 --set light.mode=none --a mesh.mesher=greedy --budget 900 --farthest 1 --frames 1 --size 32x32 --json", 0),
    ("fell-trust", f"trust {WORLD} --trials 1 --rounds 6 --frames 1 --json", 0),
    ("fell-gate", "gate --baseline {s}/t/transect.json --allow 900% --json", (0, 5)),
    ("fell-gate-comparison", "gate --comparison {s}/c.json --json", 1),
    ("fell-fly", f"fly {WORLD} --frames 3 --size 32x32 --json", 0),
    ("fell-fly", f"fly {WORLD} --straight 0.2 --json", 0),
    ("fell-audit", "audit mesh,light,order,keep --cases 3 --json", 0),
    ("fell-audit", f"audit cull --world level --views 4 --set stream.distance=1 --json", 0),
    ("fell-audit", "audit seams --setup long-view --set stream.distance=8 --views 4 --json", 0),
    ("fell-world", "world info {w} --json", 0),
    ("fell-world", "world verify {w} --json", 0),
    ("fell-world", "world compact {w} --json", 0),
    ("fell-world", "world pack {w} {s}/packed.fell --json", 0),
    ("fell-world-ways", "world ways --world level --radius 1 --edits 10 --json", 0),
    ("fell-import", "world import {s}/v.nrrd {s}/imported.fell --threshold 0.5 --json", 0),
    ("fell-world", "world verify {s}/damaged.fell --json", 1),
    ("fell-export", "export mesh --world level --box 0,-2,0,4,2,4 --out {s}/m.glb --json", 0),
    ("fell-export", "export voxels --world level --box 0,-2,0,4,2,4 --out {s}/v2.nrrd --json", 0),
    ("fell-picture", f"picture {WORLD} --width 32 --height 32 --out {{s}}/p.png --json", 0),
    ("fell-picture", "picture --setup long-view --set stream.distance=8 --width 32 --height 32 --out {s}/p1.png --full-detail {s}/p2.png --json", 0),
    ("fell-why", f"why {WORLD} --chunk=0,0,0 --json", 0),
    ("fell-why", "why --setup long-view --set stream.distance=8 --voxel=150,0,150 --json", 0),
    ("fell-recipe-check", "recipe check corrowdale --json", 0),
    ("fell-recipe-costs", "recipe show corrowdale --json", 0),
    ("fell-recipe-map", "recipe map corrowdale --size 32x32 --out {s}/map.png --json", 0),
    ("fell-method-check", "method check {m}/libown-mesher.so {m}/libfaulty-wrong_face.so --json", 1),
    ("fell-duel", "duel '{b}/fell-cli mesh --chunks 1 --repeat 1 --mesher greedy-bits --json' '{b}/fell-cli mesh --chunks 1 --repeat 1 --mesher greedy --edge 16 --json' --rounds 3 --json", (0, 1)),
    ("fell-ledger-list", "ledger list --ledger {s}/l.db --json", 0),
    ("fell-transect", "ledger show 1 --ledger {s}/l.db --json", 0),
    ("fell-ledger-change", "ledger tag 1 words --ledger {s}/l.db --json", 0),
    ("fell-ledger-change", "ledger pin 1 --ledger {s}/l.db --json", 0),
    ("fell-ledger-change", "ledger export {s}/e.json 1 --ledger {s}/l.db --json", 0),
    ("fell-ledger-import", "ledger import {s}/e.json --ledger {s}/l2.db --json", 0),
    ("fell-ledger-change", "ledger remove 1 --ledger {s}/l2.db --json", 0),
]

# How the reference shows the command of each document.
UNIQUE = {
    "fell-stages": "stages", "fell-mesh": "mesh", "fell-mesh-comparison": "mesh --a ...", "fell-store": "store",
    "fell-light": "light", "fell-transect": "transect`, `ledger show", "fell-reach": "reach", "fell-trust": "trust",
    "fell-gate": "gate", "fell-gate-comparison": "gate --comparison", "fell-fly": "fly", "fell-audit": "audit", "fell-world": "world info`, `verify`, `compact`, `pack",
    "fell-world-ways": "world ways", "fell-import": "world import", "fell-export": "export mesh`, `export voxels",
    "fell-picture": "picture", "fell-why": "why", "fell-recipe-check": "recipe check",
    "fell-recipe-costs": "recipe show", "fell-recipe-map": "recipe map", "fell-ledger-list": "ledger list",
    "fell-method-check": "method check", "fell-duel": "duel", "fell-ledger-change": "ledger tag`, `pin`, `export`, `remove", "fell-ledger-import": "ledger import",
}
# Objects whose keys are names, such as cull steps: any name may come.
MAPS = {"fell-fly.cull", "fell-fly.rejected"}
# Types that a key may have and no command here shows.
TYPES = {
    "fell-transect.reach.value": {"number", "null"}, "fell-reach.reach.value": {"integer", "null"},
    "fell-gate.rows.across": {"string", "null"}, "fell-ledger-list.trials.audit_differences": {"integer", "null"},
}
