#!/usr/bin/env python3
"""Every source file stands as .clang-format lays it out: 120 columns, so that two files can be read side by side."""
import pathlib
import subprocess
import sys

root = pathlib.Path(sys.argv[1])
tool = sys.argv[2] if len(sys.argv) > 2 else "clang-format"
files = sorted(str(p) for folder in ("src", "tests", "benchmarks") for p in (root / folder).rglob("*") if p.suffix in (".hpp", ".cpp"))
said = subprocess.run([tool, "--dry-run", "--Werror", "-style=file", *files], capture_output=True, text=True)
places = [line for line in said.stderr.splitlines() if "error:" in line]
print("\n".join(places[:40]) or f"{len(files)} files stand as .clang-format asks")
if places:
    print(f"{len(places)} places in all. What to do: clang-format -i on the files named.")
sys.exit(1 if places or said.returncode else 0)
