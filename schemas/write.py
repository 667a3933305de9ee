# SPDX-License-Identifier: Apache-2.0
"""Writes schemas/*.schema.json and docs/reference/documents.md from what the commands of fell-cli print.

    python3 schemas/write.py ROOT BUILD

Runs each command of tests/schemas/commands.py, derives the types and keys of every document, and adds what
schemas/notes.json says of each key. A key without a note, and a note without a key, is an error.
"""
import contextlib, json, pathlib, shlex, sqlite3, subprocess, sys, tempfile

root = pathlib.Path(__file__).resolve().parent.parent
sys.path.insert(0, str(root / "tests" / "schemas"))
from commands import DOCUMENTS, MAPS, TYPES, UNIQUE

ORDER = ["null", "boolean", "integer", "number", "string", "array", "object"]


def kind(v):
    return ("null" if v is None else "boolean" if isinstance(v, bool) else "integer" if isinstance(v, int)
            else "number" if isinstance(v, float) else "string" if isinstance(v, str)
            else "array" if isinstance(v, list) else "object")


class Notes:
    """What the notes say of a key: "key@document.path" before "key"."""

    def __init__(self, texts):
        self.texts, self.used, self.missing = texts, set(), set()

    def of(self, key, path):
        if f"{key}@{path}" in self.texts:
            self.used.add(f"{key}@{path}")
            return self.texts[f"{key}@{path}"]
        if key not in self.texts:
            self.missing.add(key)
            return ""
        self.used.add(key)
        return self.texts[key]


def schema_of(values, path, notes, isEntry=False):
    """What all of these have in common: types, keys that each has, no other keys. Keys are in the order of names,
    so that the schema does not depend on the order of the documents."""
    kinds = {kind(v) for v in values} | TYPES.get(path, set())
    if kinds >= {"integer", "number"}:
        kinds.remove("integer")
    out = {"type": [k for k in ORDER if k in kinds]}
    if len(kinds) == 1:
        out["type"] = out["type"][0]
    objects = [v for v in values if isinstance(v, dict)]
    if path in MAPS and not isEntry:
        out["additionalProperties"] = schema_of([v for o in objects for v in o.values()], path, notes, isEntry=True)
    elif objects and path.startswith("fell-transect.setups."):
        out["description"] = "a setup with all its settings: see settings.md"
    elif objects:
        out["properties"] = {}
        for key in sorted({k for o in objects for k in o}):
            below = f"{path}.{key}"
            one = schema_of([o[key] for o in objects if key in o], below, notes)
            note = "setup " + key if path == "fell-transect.setups" else notes.of(key, path)
            out["properties"][key] = {"description": note, **one} if note else one
        out["required"] = sorted(k for k in out["properties"] if all(k in o for o in objects))
        out["additionalProperties"] = False
    lists = [v for v in values if isinstance(v, list)]
    items = [i for v in lists for i in v]
    if items:
        out["items"] = schema_of(items, path, notes)
    return out


def damage(good, bad):
    """A copy of a world with one byte more in every row."""
    pathlib.Path(bad).write_bytes(pathlib.Path(good).read_bytes())
    with contextlib.closing(sqlite3.connect(bad)) as world, world:
        for table, column in world.execute("SELECT m.name, c.name FROM sqlite_master m, pragma_table_info(m.name) c WHERE c.type = 'BLOB'").fetchall():
            world.execute(f"UPDATE {table} SET {column} = {column} || x'55'")


def run(build, folder):
    """All documents by name, each with its command; and what was wrong."""
    def cli(arguments):
        return subprocess.run([build / "fell-cli", *shlex.split(arguments)], capture_output=True, text=True, timeout=120)

    seen, wrong = {}, []
    world = f"{folder}/w.fell"
    assert cli(f"world new {world} --world level").returncode == 0
    voxels = bytes(1 if i % 7 == 0 else 0 for i in range(512))
    pathlib.Path(f"{folder}/v.nrrd").write_bytes(b"NRRD0004\ntype: uint8\ndimension: 3\nsizes: 8 8 8\nencoding: raw\n\n" + voxels)
    pathlib.Path(f"{folder}/c.json").write_text(json.dumps({"format": "fell-duel", "version": 1, "rounds": 3, "same": False,
        "costs": [{"path": "mesh_ns", "ratio": 0.5, "low": 0.4, "high": 0.6}], "counts": [{"path": "digest", "a": "aa", "b": "ab"}]}))
    for name, arguments, code in DOCUMENTS:
        if "damaged.fell" in arguments:
            damage(f"{folder}/imported.fell", f"{folder}/damaged.fell")
        ran = cli(arguments.format(w=world, s=folder, m=build / "tests" / "methods", b=build))
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
    return seen, wrong


def rows_of(schema, path=""):
    """A line of the table for each key below a schema; NAME is any name, [] each entry of a list."""
    if isinstance(schema.get("additionalProperties"), dict):
        yield from rows_of(schema["additionalProperties"], path + "NAME.")
    for key, one in schema.get("properties", {}).items():
        types = one.get("type", "string")
        types = types if isinstance(types, str) else " or ".join(types)
        inner = one.get("items", one)
        if types == "array":
            of = inner.get("type", "string") if "items" in one else "string"
            types = "list of " + (of if isinstance(of, str) else " or ".join(of)) + "s"
        need = "" if key in schema["required"] else ", may be absent"
        yield f"| `{path}{key}` | {types}{need} | {one.get('description', '')} |"
        yield from rows_of(inner, path + key + ("[]." if "items" in one else "."))


def write(seen):
    """The text of each file by its name, and what is wrong with the notes."""
    notes = Notes(json.loads((root / "schemas" / "notes.json").read_text()))
    files, page = {}, [
        "# Documents", "",
        "Every command of `fell-cli` with `--json` prints one document. This page and the schemas in `schemas/` are",
        "written by `python3 schemas/write.py`; a test fails if they are stale. Times end with their unit (`_ns`, `_us`,",
        "`_ms`, `_s`), memory with `_bytes`. A key with \"may be absent\" depends on the options."]
    for name in sorted(seen):
        schema = {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": name,
                  **schema_of([d for _, d in seen[name]], name, notes)}
        for key, value in (("format", name), ("version", 1)):
            schema["properties"][key] = {"description": notes.of(key, name), "const": value}
        files[f"schemas/{name}.schema.json"] = json.dumps(schema, indent=1, ensure_ascii=False) + "\n"
        page += ["", f"## {name}", "", f"Printed by `fell-cli {UNIQUE[name]}`.", "", "| Key | Type | Meaning |", "|---|---|---|",
                 *(row for row in rows_of(schema) if not row.startswith(("| `format`", "| `version`", "| `made_by`")))]
    files["docs/reference/documents.md"] = "\n".join(page) + "\n"
    wrong = [f'schemas/notes.json: no note of "{key}"' for key in sorted(notes.missing)]
    wrong += [f'schemas/notes.json: no document has "{key}"' for key in notes.texts if key not in notes.used]
    return files, wrong


if __name__ == "__main__":
    root = pathlib.Path(sys.argv[1])
    with tempfile.TemporaryDirectory() as scratch:
        documents, errors = run(pathlib.Path(sys.argv[2]), scratch)
    texts, more = write(documents)
    for name, text in texts.items():
        (root / name).write_text(text)
    print("\n".join(errors + more))
    sys.exit(bool(errors + more))
