#!/usr/bin/env python3
"""The core includes no interface, OpenGL or solid-modelling header, and its rooms only look down the list."""
import pathlib
import re
import sys

root = pathlib.Path(sys.argv[1]) / "src"
# From the top down: a room may include its own files and those of rooms below it.
ROOMS = ["parts", "job", "record", "document", "proof", "program", "motion", "timing", "cutting", "workshop", "instrument", "skin", "plan", "units", "report", "words"]
HOUSES = ["app", "cli", "run", "exchange", "read", "core"]
INTERFACE = re.compile(r'#\s*include\s*[<"](Q[A-Z]|Qt|GL/|gl/|OpenGL|TopoDS|BRep|gp_|STEP|IGES|Standard_)')
# Read and written by the process' locale: where a comma is the decimal sign they make other numbers of it.
LOCALE = re.compile(r"\b(atof|strtod|strtof|stod|stof)\(|std::to_string\(|printf\(|scanf\([^;]*%[0-9.]*l?[fegFEG]")
BY_LOCALE = "numbers by the process' locale; take fmt and plain_number (core/units) or QString"
INCLUDE = re.compile(r'#\s*include\s*"([^"]+)"')
NEVER = {"proof": {"cutting", "motion"}}  # the proof knows nothing of how paths are made

wrong = []
for path in sorted(root.rglob("*")):
    if path.suffix not in (".hpp", ".cpp"):
        continue
    parts = path.relative_to(root).parts
    for number, line in enumerate(path.read_text().splitlines(), 1):
        here = f"{path.relative_to(root.parent)}:{number}"
        if parts[0] == "core" and INTERFACE.search(line):
            wrong.append(f"{here}: interface or solid-modelling header in the core")
        if LOCALE.search(line) and not line.lstrip().startswith("//"):
            wrong.append(f"{here}: {BY_LOCALE}")
        match = INCLUDE.search(line)
        if not match:
            continue
        target = match.group(1).split("/")
        if target[0] in HOUSES:
            if parts[0] in ("run", "exchange", "read", "core") and HOUSES.index(target[0]) < HOUSES.index(parts[0]):
                wrong.append(f"{here}: {parts[0]} includes {target[0]}")
            if parts[0] == "cli" and target[0] == "app":
                wrong.append(f"{here}: the command line includes the window")
        if (parts[0] == "standin") != (target[0] == "standin"):
            wrong.append(f"{here}: the simulated machine shares no source with the rest")
        if parts[0] == "core" and target[0] == "core" and len(target) > 2:
            mine, other = parts[1], target[1]
            if other not in ROOMS or mine not in ROOMS:
                wrong.append(f"{here}: a room that is not on the list")
            elif ROOMS.index(other) < ROOMS.index(mine):
                wrong.append(f"{here}: {mine} includes {other}, which stands above it")
            elif other in NEVER.get(mine, ()):
                wrong.append(f"{here}: {mine} must not include {other}")
for path in sorted((root.parent / "tests").rglob("*.[ch]pp")):
    for number, line in enumerate(path.read_text(errors="replace").splitlines(), 1):
        if LOCALE.search(line) and not line.lstrip().startswith("//"):
            wrong.append(f"{path.relative_to(root.parent)}:{number}: {BY_LOCALE}")


def reach(start):
    """Every core header that a room's files include, however far down."""
    seen, todo = set(), list((root / "core" / start).glob("*"))
    while todo:
        path = todo.pop()
        for match in INCLUDE.finditer(path.read_text()):
            other = root / match.group(1)
            if other.exists() and other not in seen:
                seen.add(other)
                todo.append(other)
    return seen


for room, others in NEVER.items():
    for header in sorted(reach(room)):
        if header.relative_to(root).parts[1] in others:
            wrong.append(f"{room} reaches {header.relative_to(root)}")
print("\n".join(wrong) or f"{len(ROOMS)} rooms in order")
sys.exit(1 if wrong else 0)
