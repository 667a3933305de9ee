# SPDX-License-Identifier: Apache-2.0
"""Every source names its licence on its first lines: app and tour are GPL-3.0-or-later, everything else Apache-2.0."""
import pathlib, sys

root = pathlib.Path(sys.argv[1])
wrong = []
count = 0
for folder in ("core", "gpu", "cli", "app", "tests", "bench", "tour"):
    for file in sorted((root / folder).rglob("*")):
        if file.suffix not in (".cpp", ".h", ".py") and file.name != "CMakeLists.txt":
            continue
        count += 1
        app = folder in ("app", "tour") or "/tests/app/" in str(file)
        wanted = "SPDX-License-Identifier: " + ("GPL-3.0-or-later" if app else "Apache-2.0")
        if wanted not in "\n".join(file.read_text().split("\n")[:2]):
            wrong.append(f"{file.relative_to(root)}: {wanted} is expected")
print("\n".join(wrong))
sys.exit(bool(wrong) or count < 100)
