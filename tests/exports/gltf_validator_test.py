# SPDX-License-Identifier: Apache-2.0
"""What export mesh writes as glTF passes the Khronos validator without a remark. Skipped (77) where npm or its registry
is not there."""
import json, pathlib, shutil, subprocess, sys, tempfile

build = pathlib.Path(sys.argv[1])
tool = build / "gltf-validator"
npm, node = shutil.which("npm"), shutil.which("node")
if not npm or not node:
    print("no npm here")
    sys.exit(77)
if not (tool / "node_modules/gltf-validator").exists():
    tool.mkdir(exist_ok=True)
    try:
        got = subprocess.run([npm, "install", "--silent", "--no-audit", "--no-fund", "--prefix", str(tool), "gltf-validator@2.0.0-dev.3.10"],
                             capture_output=True, timeout=60)
    except subprocess.TimeoutExpired:
        got = None
    if not got or got.returncode != 0:
        print("the validator cannot be fetched")
        sys.exit(77)
script = """
const fs = require('fs'), validator = require('gltf-validator');
(async () => {
  const report = await validator.validateBytes(new Uint8Array(fs.readFileSync(process.argv[1])), {maxIssues: 20});
  console.log(JSON.stringify(report.issues));
})();
"""
wrong = []
with tempfile.TemporaryDirectory() as folder:
    # Textures, shaped blocks and water; glass; and the smallest there is.
    for name, world, box in (("dale", "corrowdale", "-64,-16,-64,64,48,64"), ("gallery", "gallery", "0,0,0,64,32,64"), ("level", "level", "0,-2,0,16,4,16")):
        out = f"{folder}/{name}.glb"
        ran = subprocess.run([build / "fell-cli", "export", "mesh", "--world", world, f"--box={box}", "--out", out], capture_output=True, text=True)
        if ran.returncode != 0:
            wrong.append(f"{name}: {ran.stderr}")
            continue
        said = subprocess.run([node, "-e", script, out], capture_output=True, text=True, cwd=tool)
        issues = json.loads(said.stdout) if said.returncode == 0 else {"messages": [said.stderr]}
        if issues.get("messages") or issues.get("numErrors", 1):
            wrong.append(f"{name}: {json.dumps(issues['messages'][:5])}")
print("\n".join(wrong))
sys.exit(bool(wrong))
