# SPDX-License-Identifier: Apache-2.0
"""Every document that fell-cli prints fits its schema in schemas/, every schema has a document that fits it, and
schemas and reference are as schemas/write.py writes them."""
import json, pathlib, sys, tempfile

import jsonschema

root, build = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
sys.path.insert(0, str(root / "schemas"))
import write

with tempfile.TemporaryDirectory() as folder:
    seen, wrong = write.run(build, folder)
files, notes = write.write(seen)
wrong += notes
for name, text in files.items():
    file = root / name
    if not file.exists() or file.read_text() != text:
        wrong.append(f"{name} is stale: run python3 schemas/write.py ROOT BUILD")
for name, documents in seen.items():
    file = root / "schemas" / f"{name}.schema.json"
    if not file.exists():
        wrong.append(f"{name} has no schema in schemas/")
        continue
    schema = json.loads(file.read_text())
    jsonschema.Draft202012Validator.check_schema(schema)
    check = jsonschema.Draft202012Validator(schema)
    for arguments, document in documents:
        wrong += [f"{arguments}: {error.json_path}: {error.message[:200]}" for error in list(check.iter_errors(document))[:5]]
    first = documents[0][1]
    for what, broken in (("a version that is a text", dict(first, version="1")), ("an unknown key", dict(first, unheard=1)),
                         ("a document without made_by", {k: v for k, v in first.items() if k != "made_by"})):
        if name != "fell-transect" and check.is_valid(broken):
            wrong.append(f"{name}: its schema accepts {what}")
for file in (root / "schemas").glob("*.schema.json"):
    if file.name.removesuffix(".schema.json") not in seen:
        wrong.append(f"{file.name}: no command prints it")
print("\n".join(wrong))
sys.exit(bool(wrong))
