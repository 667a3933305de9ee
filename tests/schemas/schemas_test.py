# SPDX-License-Identifier: Apache-2.0
"""Every document that fell-cli prints fits its schema in schemas/, and every schema has a document that fits it.

With --infer it writes the schemas from what the commands print: a start for a new document, to be read and tightened.
"""
import json, pathlib, shlex, subprocess, sys, tempfile

import jsonschema

sys.path.insert(0, str(pathlib.Path(__file__).parent))
from commands import DOCUMENTS

root, build = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
infer = "--infer" in sys.argv
wrong, seen = [], {}


def cli(arguments):
    return subprocess.run([build / "fell-cli", *shlex.split(arguments)], capture_output=True, text=True, timeout=120)


def schema_of(values):
    """What all of these have in common: types, keys that each has, no other keys."""
    kinds = set()
    for v in values:
        kinds.add("null" if v is None else "boolean" if isinstance(v, bool) else "integer" if isinstance(v, int)
                  else "number" if isinstance(v, float) else "string" if isinstance(v, str)
                  else "array" if isinstance(v, list) else "object")
    if kinds >= {"integer", "number"}:
        kinds.remove("integer")
    out = {"type": sorted(kinds)[0] if len(kinds) == 1 else sorted(kinds)}
    if "object" in kinds:
        objects = [v for v in values if isinstance(v, dict)]
        keys = list(dict.fromkeys(k for o in objects for k in o))
        out["properties"] = {k: schema_of([o[k] for o in objects if k in o]) for k in keys}
        out["required"] = [k for k in keys if all(k in o for o in objects)]
        out["additionalProperties"] = False
    if "array" in kinds:
        items = [i for v in values if isinstance(v, list) for i in v]
        if items:
            out["items"] = schema_of(items)
    return out


with tempfile.TemporaryDirectory() as folder:
    world = f"{folder}/w.fell"
    assert cli(f"world new {world} --world level").returncode == 0
    voxels = bytes(1 if i % 7 == 0 else 0 for i in range(512))
    pathlib.Path(f"{folder}/v.nrrd").write_bytes(b"NRRD0004\ntype: uint8\ndimension: 3\nsizes: 8 8 8\nencoding: raw\n\n" + voxels)
    for name, arguments, code in DOCUMENTS:
        ran = cli(arguments.format(w=world, s=folder))
        if ran.returncode not in (code if isinstance(code, tuple) else (code,)):  # a gate's times may be too uneven
            wrong.append(f"{arguments}: exit code {ran.returncode}: {ran.stderr.strip()[-300:]}")
            continue
        try:
            document = json.loads(ran.stdout, parse_constant=lambda token: wrong.append(f"{arguments}: {token}"))
        except ValueError as error:
            wrong.append(f"{arguments}: no JSON: {error}")
            continue
        if document.get("format") != name or document.get("version") != 1:
            wrong.append(f"{arguments}: is {document.get('format')} {document.get('version')}, not {name} 1")
        seen.setdefault(name, []).append((arguments, document))

if infer:
    for name, documents in seen.items():
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": name, **schema_of([d for _, d in documents])}
        schema["properties"]["format"] = {"const": name}
        schema["properties"]["version"] = {"const": 1}
        (root / "schemas" / f"{name}.schema.json").write_text(json.dumps(schema, indent=1) + "\n")
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
    broken = dict(documents[0][1], version="1")
    if check.is_valid(broken):
        wrong.append(f"{name}: its schema takes a version that is a text")
for file in (root / "schemas").glob("*.schema.json"):
    if file.name.removesuffix(".schema.json") not in seen:
        wrong.append(f"{file.name}: no command prints it")
print("\n".join(wrong))
sys.exit(bool(wrong))
