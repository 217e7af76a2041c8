"""A cutter of virtual wood in numpy, written apart from the program's own: it reads manifest.json and program text, cuts a
grid of heights with each cutter's true shape, and reads solids from STL. Nothing is shared with the program but files.

Sources: ISO 6983-1 words; cutter shapes by their geometry (cylinder, sphere, cone); STL's binary layout is common practice.
"""
import copy
import json
import math
import pathlib
import struct
import sys

import numpy as np

sys.path.insert(0, str(pathlib.Path(__file__).parent.parent / "mutations"))
from program_set import Program  # a reader of the tests' own


class Shape:
    """Height of a cutter's surface over its tip, by distance from its axis."""

    def __init__(self, c):
        self.radius = c["diameter_mm"] / 2
        self.kind = c["kind"]
        r, R = c.get("corner_radius_mm", 0.0), self.radius
        if self.kind == "drill":
            slope = 1 / math.tan(math.radians(c["angle_deg"]) / 2)
            self.rise = lambda d: d * slope
        elif self.kind in ("ball", "round_nose", "round-nose", "round nose"):
            flat = R - r
            self.rise = lambda d: r - np.sqrt(np.maximum(0.0, r * r - np.maximum(0.0, d - flat) ** 2))
        elif self.kind in ("round_over", "round-over", "round over"):
            pilot = c["pilot_radius_mm"]
            self.rise = lambda d: np.where(d <= pilot, 0.0, r - 0 * d if r == 0 else np.sqrt(np.maximum(0.0, r * r - (pilot + r - d) ** 2)))
        else:
            self.rise = lambda d: 0.0 * d
        self.level_bottom = self.kind in ("flat", "slot", "facing")


class Wood:
    """Heights over a grid of cells, in the work frame."""

    def __init__(self, low, high, cell, top):
        self.low, self.cell = np.array(low), cell
        self.n = np.maximum(1, np.ceil((np.array(high) - self.low) / cell).astype(int))
        self.x = self.low[0] + (np.arange(self.n[0]) + 0.5) * cell
        self.y = self.low[1] + (np.arange(self.n[1]) + 0.5) * cell
        self.z = np.full((self.n[0], self.n[1]), float(top))

    def copy(self):
        other = copy.copy(self)
        other.z = self.z.copy()
        return other

    def window(self, x0, x1, y0, y1):
        i0, i1 = np.searchsorted(self.x, (x0, x1))
        j0, j1 = np.searchsorted(self.y, (y0, y1))
        return slice(i0, i1), slice(j0, j1)

    def stamp(self, shape, x, y, z):
        i, j = self.window(x - shape.radius, x + shape.radius, y - shape.radius, y + shape.radius)
        d = np.hypot(self.x[i][:, None] - x, self.y[j][None, :] - y)
        part = self.z[i, j]
        np.minimum(part, np.where(d <= shape.radius, z + shape.rise(np.minimum(d, shape.radius)), np.inf), out=part)

    def capsule(self, shape, a, b):
        """A level move of a cutter with a level bottom: everything within its radius of the way."""
        r = shape.radius
        i, j = self.window(min(a[0], b[0]) - r, max(a[0], b[0]) + r, min(a[1], b[1]) - r, max(a[1], b[1]) + r)
        x, y = self.x[i][:, None] - a[0], self.y[j][None, :] - a[1]
        dx, dy = b[0] - a[0], b[1] - a[1]
        t = np.clip((x * dx + y * dy) / max(dx * dx + dy * dy, 1e-18), 0, 1)
        part = self.z[i, j]
        np.minimum(part, np.where((x - t * dx) ** 2 + (y - t * dy) ** 2 <= r * r, a[2], np.inf), out=part)

    def sweep(self, shape, a, b, step):
        flat = math.hypot(b[0] - a[0], b[1] - a[1])
        if min(a[2], b[2]) > 0.001:
            return
        if shape.level_bottom and abs(a[2] - b[2]) < 1e-6 and flat < 60:
            return self.capsule(shape, a, b)
        n = max(1, math.ceil(math.dist(a, b) / step))
        for k in range(n + 1):
            t = k / n
            self.stamp(shape, a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t)

    def run(self, program, shape, step=0.3):
        for m in program.moves():
            if m.mode == 0 or max(m.a[2], m.b[2]) > 500:
                continue
            if m.mode == 1:
                self.sweep(shape, m.a, m.b, step)
            else:
                for a, b in chords(m, 0.01):
                    self.sweep(shape, a, b, step)

    def at(self, x, y):
        i = np.clip(((np.asarray(x) - self.low[0]) / self.cell).astype(int), 0, self.n[0] - 1)
        j = np.clip(((np.asarray(y) - self.low[1]) / self.cell).astype(int), 0, self.n[1] - 1)
        return self.z[i, j]


def chords(m, within):
    cx, cy = m.a[0] + m.centre[0], m.a[1] + m.centre[1]
    r = math.hypot(*m.centre)
    a0, a1 = math.atan2(m.a[1] - cy, m.a[0] - cx), math.atan2(m.b[1] - cy, m.b[0] - cx)
    turn = (a1 - a0) % (2 * math.pi) if m.mode == 3 else -((a0 - a1) % (2 * math.pi))
    if abs(turn) < 1e-9:
        turn = 2 * math.pi if m.mode == 3 else -2 * math.pi
    n = max(1, math.ceil(abs(turn) / (2 * math.acos(max(0.0, 1 - within / max(r, within))))))
    points = [m.a] + [(cx + r * math.cos(a0 + turn * k / n), cy + r * math.sin(a0 + turn * k / n), m.a[2] + (m.b[2] - m.a[2]) * k / n)
                      for k in range(1, n)] + [m.b]
    return zip(points, points[1:])


class Folder:
    """A folder of programs: every side's wood as its programs leave it, and the matrices between."""

    def __init__(self, folder, cell):
        self.folder = pathlib.Path(folder)
        self.manifest = json.loads((self.folder / "manifest.json").read_text())
        self.cell = cell
        self.sides = {}
        for e in self.manifest["programs"]:
            self.sides.setdefault((e["piece"], e["side"]), []).append(e)

    def matrix(self, piece, side):
        return np.array(self.sides[(piece, side)][0]["instrument_to_work"])

    def blank(self, piece, side):
        """The wood before anything is cut on this side."""
        entries = self.sides[(piece, side)]
        blank = entries[0]["blank_mm"]
        size = (blank["length"], blank["width"]) if blank["length_along"] == "x" else (blank["width"], blank["length"])
        corner = blank["corner"]
        wood = Wood(corner[:2], (corner[0] + size[0], corner[1] + size[1]), self.cell, 0.0)
        stock = blank["stock"]
        if stock["kind"] == "profile":
            # the height along one direction of the side's own frame: work back through the matrix
            inverse = np.linalg.inv(self.matrix(piece, side))
            X, Y = np.meshgrid(wood.x, wood.y, indexing="ij")
            p = np.einsum("rc,cij->rij", inverse, np.array([X, Y, 0 * X, 0 * X + 1]))
            turn = np.sign(inverse[2][2])
            flip = -1 if turn < 0 else 1
            along = p[0] * stock["along"][0] + p[1] * flip * stock["along"][1]
            points = np.array(stock["points_mm"])
            wood.z = np.interp(along, points[:, 0], points[:, 1]) + self.matrix(piece, side)[2][3]
        return wood

    def cut(self, piece, side):
        wood = self.blank(piece, side)
        for e in self.sides[(piece, side)]:
            p = Program(e["file"], e, (self.folder / e["file"]).read_text())
            wood.run(p, Shape(e["cutter"]))
        return wood


def read_stl(path):
    """Triangles as (n, 3, 3) of a binary STL."""
    data = pathlib.Path(path).read_bytes()
    (n,) = struct.unpack_from("<I", data, 80)
    assert len(data) == 84 + 50 * n, "not a binary STL"
    raw = np.frombuffer(data, dtype=np.dtype([("n", "<3f4"), ("p", "<9f4"), ("a", "<u2")]), count=n, offset=84)
    return raw["p"].reshape(n, 3, 3).astype(float)


def heights(triangles, X, Y, up=True):
    """Height of a solid's upper (or lower) face at places (X, Y); nan outside. Triangles are rasterised one by one."""
    shape = X.shape
    out = np.full(shape, -np.inf if up else np.inf)
    xs, ys = X[:, 0], Y[0, :]
    for t in triangles:
        (x0, y0, z0), (x1, y1, z1), (x2, y2, z2) = t
        det = (y1 - y2) * (x0 - x2) + (x2 - x1) * (y0 - y2)
        if abs(det) < 1e-12:
            continue
        i0, i1 = np.searchsorted(xs, (min(x0, x1, x2) - 1e-6, max(x0, x1, x2) + 1e-6))
        j0, j1 = np.searchsorted(ys, (min(y0, y1, y2) - 1e-6, max(y0, y1, y2) + 1e-6))
        if i0 == i1 or j0 == j1:
            continue
        x, y = X[i0:i1, j0:j1], Y[i0:i1, j0:j1]
        a = ((y1 - y2) * (x - x2) + (x2 - x1) * (y - y2)) / det
        b = ((y2 - y0) * (x - x2) + (x0 - x2) * (y - y2)) / det
        c = 1 - a - b
        z = a * z0 + b * z1 + c * z2
        inside = (a >= -1e-9) & (b >= -1e-9) & (c >= -1e-9)
        part = out[i0:i1, j0:j1]
        if up:
            np.maximum(part, np.where(inside, z, -np.inf), out=part)
        else:
            np.minimum(part, np.where(inside, z, np.inf), out=part)
    out[~np.isfinite(out)] = np.nan
    return out
