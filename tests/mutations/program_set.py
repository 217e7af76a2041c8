"""A folder of programs as something that can be spoiled: parts of the text found by what they do, sealed again after.

A reader of its own (no code of the program's): modal state line by line, moves in absolute mm as our writer puts them.
"""
import copy
import hashlib
import json
import math
import pathlib
import re
import zlib

WORD = re.compile(r"([A-Z])([-+]?(?:\d+\.?\d*|\.\d+))")
COMMENT = re.compile(r"\(.*?\)|;.*")


def words(line):
    """[(letter, number)] of a line, comments left out."""
    return [(a, float(v)) for a, v in WORD.findall(COMMENT.sub("", line))]


def number(v):
    """As a program writes it: micrometres, no exponent."""
    text = f"{v:.3f}"
    return "0.000" if text == "-0.000" else text


def with_word(line, letter, value):
    """The line with its word set anew; a line without it gets it at the end (before a comment)."""
    text = f"{letter}{value if isinstance(value, str) else number(value)}"
    code = COMMENT.sub("", line)
    if re.search(letter + r"[-+.\d]", code):
        done = re.sub(letter + r"[-+]?[\d.]+", text, code, count=1)
    else:
        done = code + text
    return done + line[len(code):] if line.startswith(code) else done


def without_word(line, letter):
    return re.sub(letter + r"[-+]?[\d.]+", "", line, count=1)


class Move:
    """One motion of a program: from and to in mm, its mode, feed, and the line it stands in."""

    def __init__(self, line, mode, a, b, feed, centre):
        self.line, self.mode, self.a, self.b, self.feed, self.centre = line, mode, a, b, feed, centre

    @property
    def flat(self):
        return math.hypot(self.b[0] - self.a[0], self.b[1] - self.a[1])

    @property
    def down(self):
        return self.a[2] - self.b[2]


class Program:
    def __init__(self, name, entry, text):
        self.name, self.entry = name, entry
        self.lines = text.split("\n")
        if self.lines and self.lines[-1] == "":
            self.lines.pop()
        self.read, self.found = None, []

    def __deepcopy__(self, memo):
        other = copy.copy(self)
        other.entry, other.lines = copy.deepcopy(self.entry, memo), list(self.lines)
        return other

    @property
    def cut(self):
        return " ".join(self.entry.get("cut", []))

    def moves(self):
        """Every motion, machine-coordinate lines left out; read anew only where a line has changed."""
        if self.read == self.lines:
            return list(self.found)
        self.read, self.found = list(self.lines), self.motions()
        return list(self.found)

    def motions(self):
        out, at, mode, feed = [], [0.0, 0.0, 1e3], 0, None
        for i, line in enumerate(self.lines):
            w = words(line)
            if any(a == "G" and v == 53 for a, v in w):
                continue
            new, centre = list(at), [0.0, 0.0]
            moved = False
            for a, v in w:
                if a == "G" and v in (0, 1, 2, 3):
                    mode = int(v)
                elif a == "F":
                    feed = v
                elif a in "XYZ":
                    new["XYZ".index(a)] = v
                    moved = True
                elif a in "IJ":
                    centre["IJ".index(a)] = v
            if moved:
                out.append(Move(i, mode, tuple(at), tuple(new), feed, tuple(centre)))
                at = new
        return out

    def dwell(self, seconds):
        """A wait in the unit that the program's own waits are in."""
        own = next((number for l in self.lines for a, number in words(l) if l.startswith("G4") and a == "P"), 1)
        return f"G4 P{seconds * 1000 if own >= 100 else seconds:g}"

    def drop(self, lines):
        gone = set(lines)
        self.lines = [l for i, l in enumerate(self.lines) if i not in gone]

    def each(self, change, when=lambda i, line: True):
        self.lines = [change(l) if when(i, l) else l for i, l in enumerate(self.lines)]

    def text(self):
        """Sealed: a last line with count and checksum, right for what stands above it."""
        body = [l for l in self.lines if not l.startswith("(end: ")]
        text = "\n".join(body) + "\n"
        return text + f"(end: {len(body) + 1} lines, crc32 {zlib.crc32(text.encode('latin-1')):08x})\n"


class ProgramSet:
    """All programs of a folder with their manifest."""

    def __init__(self, folder):
        folder = pathlib.Path(folder)
        self.manifest = json.loads((folder / "manifest.json").read_text())
        self.programs = [Program(e["file"], e, (folder / e["file"]).read_text()) for e in self.manifest["programs"]]

    def copy(self):
        return copy.deepcopy(self)

    def of(self, *names):
        """Programs whose cuts hold one of the names; all where none is given."""
        return [p for p in self.programs if not names or any(n in p.cut for n in names)]

    def write(self, folder):
        """With fresh seals and fresh hashes, so that nothing but the cutting tells."""
        folder = pathlib.Path(folder)
        folder.mkdir(parents=True, exist_ok=True)
        entries = []
        for p in self.programs:
            data = p.text().encode("latin-1")
            (folder / p.name).write_bytes(data)
            p.entry["file"] = p.name
            p.entry["sha256"] = hashlib.sha256(data).hexdigest()
            entries.append(p.entry)
        self.manifest["programs"] = entries
        (folder / "manifest.json").write_text(json.dumps(self.manifest, indent=1))
