# SPDX-License-Identifier: Apache-2.0
"""The README shows the compiled example word for word, and links every picture that is kept."""
import pathlib, re, sys

root = pathlib.Path(sys.argv[1])
readme = (root / "README.md").read_text()
example = (root / "tests/readme_example.cpp").read_text().split("// README begins\n")[1].split("// README ends")[0]
wrong = []
if example.strip() not in readme:
    wrong.append("README.md does not show tests/readme_example.cpp word for word")
for picture in sorted((root / "docs/screenshots").glob("*.png")):
    if f"docs/screenshots/{picture.name}" not in readme:
        wrong.append(f"README.md does not link {picture.name}")
for link in re.findall(r"\]\(([^)#h][^)]*)\)", readme):
    if not (root / link.split("#")[0]).exists():
        wrong.append(f"README.md links {link}, which is not there")
print("\n".join(wrong))
sys.exit(bool(wrong))
