"""Bring in the front end's libraries: fixed versions from npm, licences kept, versions recorded.

Run by hand after changing a version; what it writes is committed.
Usage: .venv/bin/python scripts/vendor.py
"""

from __future__ import annotations

import json
import shutil
import subprocess
import tempfile
from pathlib import Path

ROOT = Path(__file__).parents[1]
STATIC = ROOT / "src/isotherma/web/static/vendor"
TESTS = ROOT / "tests/vendor"
# package, version, licence file, [(file in package, target folder, name)]
PACKAGES: list[tuple[str, str, str, list[tuple[str, Path, str]]]] = [
    ("htmx.org", "2.0.11", "LICENSE", [("dist/htmx.min.js", STATIC, "htmx.min.js")]),
    (
        "bootstrap",
        "5.3.9",
        "LICENSE",
        [
            ("dist/css/bootstrap-reboot.min.css", STATIC, "bootstrap-reboot.min.css"),
            ("dist/css/bootstrap-grid.min.css", STATIC, "bootstrap-grid.min.css"),
        ],
    ),
    (
        "@fontsource-variable/archivo",
        "5",
        "LICENSE",
        [
            (f"files/archivo-{part}-standard-normal.woff2", STATIC, f"archivo-{part}.woff2")
            for part in ("latin", "latin-ext")
        ],
    ),
    ("axe-core", "4", "LICENSE", [("axe.min.js", TESTS, "axe.min.js")]),
]


def main() -> None:
    """Install into a scratch folder, copy the files wanted, record versions."""
    STATIC.mkdir(parents=True, exist_ok=True)
    TESTS.mkdir(parents=True, exist_ok=True)
    rows = []
    with tempfile.TemporaryDirectory() as scratch:
        wanted = [f"{name}@{version}" for name, version, _, _ in PACKAGES]
        subprocess.run(
            ["npm", "install", "--silent", "--no-save", "--prefix", scratch, *wanted], check=True
        )
        for name, _, licence, copies in PACKAGES:
            package = Path(scratch) / "node_modules" / name
            facts = json.loads((package / "package.json").read_text())
            for source, folder, target in copies:
                text = (package / source).read_bytes()
                # maps are not shipped, so the line that asks for one goes
                lines = [line for line in text.split(b"\n") if b"sourceMappingURL" not in line]
                keep = text if target.endswith(".woff2") else b"\n".join(lines)
                (folder / target).write_bytes(keep)
            folder = copies[0][1]
            plain = name.split("/")[-1]
            shutil.copy(package / licence, folder / f"{plain}.LICENSE")
            files = ", ".join(target for _, _, target in copies)
            rows.append(f"| {name} | {facts['version']} | {facts['license']} | {files} |")
    table = ["| package | version | licence | files |", "|---|---|---|---|", *rows]
    (STATIC / "VERSIONS.md").write_text("\n".join(table) + "\n")


if __name__ == "__main__":
    main()
