# SPDX-License-Identifier: Apache-2.0
"""The demo recipes fit the JSON Schema, and what the reader refuses the schema refuses too."""
import copy, json, pathlib, subprocess, sys, tempfile

import jsonschema

root = pathlib.Path(sys.argv[1])
cli = pathlib.Path(sys.argv[2]) / "fell-cli"
schema = json.loads((root / "demo/recipe.schema.json").read_text())
check = jsonschema.Draft202012Validator(schema)
wrong = []
recipes = sorted((root / "demo").glob("*/recipe.json"))
assert len(recipes) >= 5, "the demo recipes were not found"
for file in recipes:
    for error in check.iter_errors(json.loads(file.read_text())):
        wrong.append(f"{file.name} of {file.parent.name}: {error.json_path}: {error.message}")

good = json.loads((root / "demo/corrowdale/recipe.json").read_text())


def changed(change):
    recipe = copy.deepcopy(good)
    change(recipe)
    return recipe


broken = {
    "an unknown key": changed(lambda r: r.update(colour=1)),
    "a wrong type": changed(lambda r: r["height"]["layers"][0].update(amplitude="high")),
    "out of range": changed(lambda r: r["height"]["layers"][0]["noise"].update(octaves=13)),
    "an exponent between quarters": changed(lambda r: r["height"]["layers"][0].update(exponent=1.3)),
    "no seed": changed(lambda r: r.pop("seed")),
    "a wall without a height": changed(lambda r: r["height"]["landforms"].append({"kind": "wall", "path": [[0, 0], [1, 1]], "width": 1, "material": "slate"})),
    "a curve that leaves 0 to 1": changed(lambda r: r["height"]["layers"][0].update(curve=[[0, 0], [1, 2]])),
    "a warp without a noise": changed(lambda r: r["height"]["layers"][0].update(warp={"amount": 3})),
    "a kind of layer of version 1": changed(lambda r: r["height"]["layers"][2].update(kind="ridges")),
    "another version": changed(lambda r: r.update(version=3)),
}
for name, recipe in broken.items():
    if check.is_valid(recipe):
        wrong.append(f"the schema takes a recipe with {name}")
    if cli.exists():
        with tempfile.TemporaryDirectory() as folder:
            (pathlib.Path(folder) / "blocks.json").write_text((root / "demo/corrowdale/blocks.json").read_text())
            file = pathlib.Path(folder) / "recipe.json"
            file.write_text(json.dumps(recipe))
            run = subprocess.run([cli, "mesh", "--world", str(file), "--chunks", "1", "--repeat", "1"], capture_output=True, text=True)
            if run.returncode != 2:
                wrong.append(f"fell-cli takes a recipe with {name}: exit code {run.returncode}")
print("\n".join(wrong))
sys.exit(bool(wrong))
