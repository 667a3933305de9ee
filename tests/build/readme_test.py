# SPDX-License-Identifier: Apache-2.0
"""The README is short and links every picture; the gallery shows each; links of documents lead somewhere; and the
example in the documents is the one that is compiled."""
import pathlib, re, sys

root = pathlib.Path(sys.argv[1])
wrong = []
readme = (root / "README.md").read_text()
if readme.count("\n") > 120:
    wrong.append("README.md has more than 120 lines")
example = (root / "tests/readme_example.cpp").read_text().split("// README begins\n")[1].split("// README ends")[0]
if example.strip() not in (root / "docs/howto/use-the-core.md").read_text():
    wrong.append("docs/howto/use-the-core.md does not show tests/readme_example.cpp word for word")
gallery = (root / "docs/gallery.md").read_text()
for picture in sorted((root / "docs/screenshots").glob("*.png")):
    if f"](docs/screenshots/{picture.name})" not in readme:
        wrong.append(f"README.md does not link {picture.name}")
    if f"](screenshots/{picture.name})" not in gallery:
        wrong.append(f"docs/gallery.md does not show {picture.name}")
documents = [root / "README.md", root / "CONTRIBUTING.md", *sorted((root / "docs").rglob("*.md"))]
for document in documents:
    for link in re.findall(r"\]\(([^)#h][^)]*)\)", document.read_text()):
        if not (document.parent / link.split("#")[0]).exists():
            wrong.append(f"{document.relative_to(root)} links {link}, which is not there")
print("\n".join(wrong))
sys.exit(bool(wrong))
