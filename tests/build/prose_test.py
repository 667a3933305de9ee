# SPDX-License-Identifier: Apache-2.0
"""Old words may only become fewer, and sentences of documents only shorter. Lower a number here when you have fixed
something; docs/glossary.md has the words to use."""
import pathlib, re, sys

root = pathlib.Path(sys.argv[1])
SOURCES = ("core", "gpu", "cli", "app", "tour", "bench", "tests")
WORDS = {
    "anew": 0, "beside": 0, "nobody": 0, "somebody": 0, "whoever": 0, "everybody": 0, "stands": 0, "by itself": 0,
    "by themselves": 0, "of its own": 0, "of their own": 0, "goes by": 1, "lets? go": 0, "so many": 1,
    "made again": 0, "graphics side": 0, "taken? away": 0, "takes away": 0, "what stands about": 0,
    "drawing thread": 0, "(is|are) wanted": 0, "round (the|an?|what|it|them|all)": 2,
}
# Errors that only say what is wrong: a sentence of a Problem without one of these. What the system adds, and names that are
# suggested, are not seen here.
REMEDY = (r"allowed|expected|choose|use |give|names? |run |install|lower|raise|close|remove|check|need|must|mount|free |save|copy|"
          r"open|mean|at most|at least|between|fewer|write|set |try|add |only |import it")
WITHOUT_REMEDY = 70
LONG = 25  # words
LONG_SENTENCES = 13
MEAN_WORDS = 12.0


def documents():
    return [root / "README.md", root / "CONTRIBUTING.md", *sorted((root / "docs").rglob("*.md"))]


def sources():
    for folder in SOURCES:
        for file in sorted((root / folder).rglob("*")):
            if file.suffix in (".cpp", ".h", ".glsl", ".py") and file.name != "prose_test.py":
                yield file


def sentences(text):
    """Of prose: neither code, tables nor pictures. A line of a list is a paragraph."""
    text = re.sub(r"```.*?```", "", text, flags=re.S)
    paragraph = []
    for line in text.split("\n") + [""]:
        stripped = line.strip()
        begins = not stripped or re.match(r"([-*#>|!]|\d+\.) ?", stripped)
        if begins and paragraph:
            yield from (part for part in re.split(r"(?<=[.!?])\s+| · ", " ".join(paragraph)) if part)
            paragraph = []
        if stripped and not re.match(r"[#|!]", stripped):
            paragraph.append(re.sub(r"^([-*>]|\d+\.) +", "", stripped))


def words(sentence):
    return len(re.findall(r"[\w'’/.-]*\w[\w'’/.-]*", re.sub(r"\]\([^)]*\)", "]", sentence)))


def without_remedy():
    for file in sources():
        if file.suffix != ".cpp" or file.is_relative_to(root / "tests"):
            continue
        for problem in re.findall(r"Problem\{((?:[^{}]|\{[^{}]*\})*)\}", file.read_text()):
            text = " ".join(re.findall(r'"((?:[^"\\]|\\.)*)"', problem))
            if len(text) >= 12 and not re.search(REMEDY, text):
                yield f"{file.relative_to(root)}: {text}"


def main():
    wrong, lower = [], []
    bare = list(without_remedy())
    (wrong if len(bare) > WITHOUT_REMEDY else lower if len(bare) < WITHOUT_REMEDY else []).append(
        f"errors without a remedy: {len(bare)}, were {WITHOUT_REMEDY}")
    if len(bare) > WITHOUT_REMEDY:
        wrong += bare
    whole = "\n".join(file.read_text(errors="replace") for file in [*documents(), *sources()])
    for word, most in WORDS.items():
        count = len(re.findall(rf"\b{word}\b", whole, flags=re.I))
        (wrong if count > most else lower if count < most else []).append(f"\"{word}\": {count}, was {most}")
    lengths = [words(sentence) for document in documents() for sentence in sentences(document.read_text())]
    long = sum(length > LONG for length in lengths)
    mean = sum(lengths) / len(lengths)
    (wrong if long > LONG_SENTENCES else lower if long < LONG_SENTENCES else []).append(
        f"sentences over {LONG} words: {long}, were {LONG_SENTENCES}")
    if mean > MEAN_WORDS:
        wrong.append(f"words per sentence: {mean:.2f}, at most {MEAN_WORDS} are allowed")
    if wrong:
        print("more than before:\n  " + "\n  ".join(wrong))
    if lower:
        print("lower the numbers in this file:\n  " + "\n  ".join(lower))
    return bool(wrong)


if __name__ == "__main__":
    sys.exit(main())
