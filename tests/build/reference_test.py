# SPDX-License-Identifier: Apache-2.0
"""docs/reference/, docs/man/ and docs/completions/ are what the program writes; the README shows its table of methods;
the manual page has no warnings; and the three shells complete what the program knows."""
import pathlib, shutil, subprocess, sys, tempfile

root, build = pathlib.Path(sys.argv[1]), pathlib.Path(sys.argv[2])
cli = build / "fell-cli"
wrong = []


def run(*command, **more):
    return subprocess.run(command, capture_output=True, text=True, timeout=60, **more)


with tempfile.TemporaryDirectory() as folder:
    ran = run(cli, "reference", "--out", folder)
    if ran.returncode:
        wrong.append(f"fell-cli reference: {ran.stderr}")
    for page in sorted(path for path in pathlib.Path(folder).rglob("*") if path.is_file()):
        name = page.relative_to(folder)
        kept = root / "docs" / name
        if not kept.exists() or kept.read_text() != page.read_text():
            wrong.append(f"docs/{name} is stale: run fell-cli reference --out docs")
if run(cli, "stages", "--markdown").stdout not in (root / "README.md").read_text():
    wrong.append("README.md does not show the table of fell-cli stages --markdown")

manual = run("groff", "-man", "-ww", "-z", "-Tutf8", root / "docs/man/fell-cli.1")
if manual.returncode or manual.stderr:
    wrong.append(f"docs/man/fell-cli.1: {manual.stderr[:300]}")

# Each shell is asked as a user asks it; the answers are known from the command line's own help.
asked = {
    "fell-cli me": {"mesh"},
    "fell-cli world pa": {"pack"},
    "fell-cli mesh --chu": {"--chunks"},
    "fell-cli transect --setup ne": {"near"},
    "fell-cli mesh --set mesh.mesher=gre": {"mesh.mesher=greedy", "mesh.mesher=greedy-bits"},
}
files = root / "docs/completions"
bash = """source "$1"; COMP_LINE=$2; COMP_POINT=${#2}; COMP_WORDBREAKS=$' \\t\\n'; _fell_cli; printf '%s\\n' "${COMPREPLY[@]}" """
fish = 'source $argv[1]; complete -C $argv[2]'
zsh = """compadd() { shift; for one in $@; do [[ $one == ${words[CURRENT]}* ]] && print -r -- $one; done }
_files() { }; source $1; words=(${(s: :)2}); CURRENT=$#words; _fell_cli"""
for line, expected in asked.items():
    answers = {"bash": run("bash", "-c", bash, "bash", files / "fell-cli.bash", line),
               "zsh": run("zsh", "-f", "-c", zsh, "zsh", files / "_fell-cli", line),
               "fish": run("fish", "--no-config", "-c", fish, files / "fell-cli.fish", line)}
    for shell, ran in answers.items():
        found = {one.split("\t")[0] for one in ran.stdout.split("\n") if one}
        if not expected <= found or any(not one.startswith(line.split()[-1]) for one in found):
            wrong.append(f"{shell}: {line}: {sorted(found)[:9]} in place of {sorted(expected)} {ran.stderr[:200]}")
# Where = divides words, bash is given only what is behind it.
behind = run("bash", "-c", bash.replace("$' \\t\\n'", "$' \\t\\n=:'"), "bash", files / "fell-cli.bash", "fell-cli mesh --set mesh.mesher=gre")
if "greedy-bits" not in behind.stdout.split() or "mesh.mesher" in behind.stdout:
    wrong.append(f"bash: behind = there is {behind.stdout.split()}")
print("\n".join(wrong))
sys.exit(bool(wrong))
