# SPDX-License-Identifier: Apache-2.0
"""cmake --install into an empty folder that is then moved: the programs find their data there, and what the desktop reads
is valid."""
import os, pathlib, shutil, subprocess, sys, tempfile

build = pathlib.Path(sys.argv[1])
wrong = []


def run(*command, **more):
    return subprocess.run(command, capture_output=True, text=True, timeout=120, **more)


def expect(holds, what):
    if not holds:
        wrong.append(what)


with tempfile.TemporaryDirectory() as folder:
    first, prefix = pathlib.Path(folder, "first"), pathlib.Path(folder, "moved here")
    installed = run("cmake", "--install", build, "--prefix", first)
    expect(installed.returncode == 0, f"cmake --install: {installed.stderr[-300:]}")
    first.rename(prefix)
    share = prefix / "share"
    # A setup that only the installed data have, and no path of the source tree in the data.
    shutil.copy(share / "fell/demo/setups/near.json", share / "fell/demo/setups/installed.json")
    cli = prefix / "bin/fell-cli"
    mesh = run(cli, "mesh", "--setup", "installed", "--chunks", "1", "--repeat", "1")
    expect(mesh.returncode == 0 and "greedy-bits" in mesh.stdout, f"fell-cli mesh: {mesh.stderr}")
    unknown = run(cli, "mesh", "--setup", "instaled")
    expect('did you mean "installed"' in unknown.stderr, f"a wrong setup: {unknown.stderr}")
    walked = run(cli, "transect", "--world", "level", "--vary", "stream.distance=1,2", "--rounds", "2", "--frames", "2", "--no-draw",
                 "--quiet", "--json")
    expect(walked.returncode == 0 and '"fell-transect"' in walked.stdout, f"fell-cli transect: {walked.stderr}")
    expect(not list(share.rglob("*.cpp")) and not list(share.rglob("CMakeLists.txt")), "sources are among the data")
    expect((share / "man/man1/fell-cli.1").exists() and (share / "man/man1/fell-app.1").exists(), "no manual pages")
    expect((share / "bash-completion/completions/fell-cli").exists(), "no completion")
    version = run(prefix / "bin/fell-app", "--version", env={**os.environ, "DISPLAY": ""})
    expect(version.returncode == 0 and version.stdout.startswith("fell 0."), f"fell-app --version: {version.stderr}")
    desktop = run("desktop-file-validate", share / "applications/net.corrowdale.fell.desktop")
    expect(desktop.returncode == 0 and not desktop.stdout, f"desktop file: {desktop.stdout}")
    store = run("appstreamcli", "validate", "--no-net", share / "metainfo/net.corrowdale.fell.metainfo.xml")
    expect(store.returncode == 0, f"AppStream: {store.stdout}")
    manual = run("groff", "-man", "-ww", "-z", "-Tutf8", share / "man/man1/fell-app.1")
    expect(manual.returncode == 0 and not manual.stderr, f"fell-app.1: {manual.stderr}")
    # A file of a world is known to the desktop.
    if shutil.which("update-mime-database"):
        known = run("update-mime-database", share / "mime")
        expect(known.returncode == 0 and "vnd.corrowdale.fell-world:*.fell" in (share / "mime/globs").read_text(), known.stderr)
print("\n".join(wrong))
sys.exit(bool(wrong))
