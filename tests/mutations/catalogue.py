#!/usr/bin/env python3
"""Good programs are spoiled in every way the catalogue knows, sealed again, and held against the proof, which has to say
no; and changed in ways that do no harm, to which it has to say yes. Nothing but `wren prove` is asked.

usage: catalogue.py WREN                       a sample, for every run of the tests
       catalogue.py WREN --full                both demos and shops of other habits, all parts, all kinds
       catalogue.py WREN --random 20 --kinds 10    that many instruments from seeds, each with its turn of the kinds: each
                                               part meets every kind on one of them at least
       catalogue.py WREN --full --log FILE     goes on where the same run was stopped: what FILE holds is not asked again
       catalogue.py WREN --parts coupon --only dip,skin   while working on it

Good programs that are not proved, a harmful set that is, a harmless one that is not: each is a fault.
"""
import argparse
import concurrent.futures
import functools
import hashlib
import json
import pathlib
import random
import subprocess
import sys
import tempfile
import threading
import time

sys.path.insert(0, str(pathlib.Path(__file__).parent))
import harmful
import harmful_fine  # noqa: F401  joins harmful.KINDS
import harmful_hand  # noqa: F401  joins harmful.KINDS
import harmful_layers  # noqa: F401  joins harmful.KINDS
import harmful_loose  # noqa: F401  joins harmful.KINDS
import harmful_register  # noqa: F401  joins harmful.KINDS
import harmful_schools  # noqa: F401  joins harmful.KINDS
import harmful_sly  # noqa: F401  joins harmful.KINDS
import harmful_unseen  # noqa: F401  joins harmful.KINDS
import harmful_walls  # noqa: F401  joins harmful.KINDS
import harmless
from program_set import ProgramSet

HERE = pathlib.Path(__file__).parent
SAMPLE = [("reedling", "coupon", None), ("one-file", "cover", 100), ("reedling", "fretboard", 12), ("sedge", "waste-board", 8),
          ("schools", "scratch-plate", 6)]
PARTS = ["coupon", "waste-board", "cover", "fretboard", "neck", "body", "scratch-plate", "heel-sample", "jack-guide", "caul", "cradle"]


def call(*args):
    r = subprocess.run([str(a) for a in args], capture_output=True, text=True, timeout=600)
    return r.returncode, r.stdout + r.stderr


class Log:
    """What was asked before, kept line by line beside the binary it was asked of: another binary's answers are no answers."""

    def __init__(self, path, wren):
        self.path, self.known, self.lock = path, {}, threading.Lock()
        self.of = hashlib.sha256(wren.read_bytes()).hexdigest()[:16]
        for line in path.read_text().splitlines() if path and path.exists() else []:
            of, project, part, kind, seed, *answer = json.loads(line)
            if of == self.of:
                self.known[project, part, kind, seed] = answer

    def ask(self, key, run):
        if key not in self.known:
            self.known[key] = run()
            if self.path:
                with self.lock, self.path.open("a") as f:
                    f.write(json.dumps([self.of, *key, *self.known[key]]) + "\n")
        return self.known[key]


class Case:
    """One part of one project with its good programs."""

    def __init__(self, wren, project, part, root):
        self.wren, self.part = wren, part
        self.file = project
        self.folder = root / f"{project.stem}-{part}"
        code, said = call(wren, "programs", project, "--part", part, "--out", self.folder, "--force")
        self.folder = self.folder / part
        # Schools ask for small parts of their own: elsewhere there is nothing to spoil.
        self.there = "ask for no such part" not in said
        if not self.there:
            return
        self.proved, self.said = False, said
        if code not in (0, 1) or not (self.folder / "manifest.json").exists():
            return  # a fault, but of this one
        self.good = ProgramSet(self.folder)
        if project.stem == "clamped" and part == "fretboard":
            self.good.clamp = CLAMP
        if project.stem == "clamped" and part == "body":
            self.good.back_clamp = BACK_CLAMP
        code, said = self.prove(self.folder)
        self.proved = code == 0
        self.said = said

    def prove(self, folder):
        return call(self.wren, "prove", self.file, "--part", self.part, "--folder", folder)

    def run(self, name, change, seed):
        """(applies, exit code, what was said)"""
        spoiled = self.good.copy()
        if not change(spoiled, random.Random(seed)):
            return False, 0, ""
        with tempfile.TemporaryDirectory(dir=self.folder.parent) as to:
            spoiled.write(to)
            code, said = self.prove(to)
        return True, code, said


# Shops of other habits: all cutters in one file, a magazine, clamps on the bed.
VARIANTS = {
    "one-file": ("plain", ["programs.files=one"]),
    "magazine": ("plain", ["programs.files=one", "machine.change=magazine"]),
    "sawn": ("reedling", ["body.outline_school=guide", "body.ears_off=by machine", "body.face_off=2"]),
    "layered": ("reedling", ["body.layers=top ash 6.5; core pine 25; back ash 9.5", "control.by_layer=yes", "control.face_left=6.5"]),
    "schools": ("reedling", ["body.outline_school=full", "body.outline_when=first", "frets.when=board_loose", "bridge.holes=held_back",
                             "control.floor_edges=rounded", "marks.side=ticks", "plate.thickness=2.5", "body.pocket_from=sample",
                             "wire.jack_when=body_finished"]),
    "blind": ("plain", ["slot.ends=blind"]),
    "fence": ("reedling", ["neck.alignment=fence", "neck.blank.lie=y", "body.alignment=fence"]),
    "cradled": ("reedling", ["neck.holding=cradle"]),
    "bare-one": ("plain", ["programs.files=one", "machine.knows_g53=no", "machine.dwell=milliseconds"]),
    "bare": ("plain", ["machine.knows_g53=no", "machine.knows_arcs=no", "machine.knows_g61=no", "machine.knows_g64=yes", "machine.dwell=milliseconds"]),
    "one-piece": ("plain", ["neck.build=one_piece", "neck.blank.thickness=30.5", "neck.rough_cutter=flat-6.35-long",
                            "neck.channel_cutter=flat-6.35-long", "neck.outline_cutter=flat-6.35-long"]),
    "over": ("reedling", ["body.top_oversize=6", "body.top_register=holes", "body.blank.length=500"]),
    "clamped": ("reedling", ["board.clamps=left -30 18 6 57 18; right 504 18 540 57 18", "body.clamps=low 0 0 15 15 46; high 455 0 470 15 46",
                            "nut.seat=slot"]),
}
CLAMP = (3.0, 30.0, 9.0)  # over the first of the board's, from the blank's corner, under its top
BACK_CLAMP = (0.0, 0.0, 15.0, 15.0)  # the first of the body's


def projects(wren, root, names, count):
    out = {}
    for n in names:
        out[n] = root / f"{n}.wren"
        start, changes = VARIANTS.get(n, (n, []))
        code, said = call(wren, "new", out[n], "--from", start)
        if code == 0 and changes:
            code, said = call(wren, "set", out[n], *changes)
        if code:
            raise SystemExit(said)
    for seed in range(1, count + 1):
        r = random.Random(1000 + seed)
        p = root / f"random-{seed}.wren"
        call(wren, "new", p, "--from", r.choice(["plain", "bass", "reedling", "sedge"]))
        for _ in range(6):
            key, values = r.choice([("frets.count", range(20, 25)), ("crown.radius_last", range(300, 500, 16)), ("board.overhang", range(4, 14)),
                                    ("coupon.thickness", range(10, 24)), ("neck.thickness_a", [20, 20.5, 21, 22]), ("neck.tab_height", [2, 2.6, 3]),
                                    ("board.tab_height", [1, 1.5, 2]), ("body.tail", range(112, 130)), ("marks.shape", ["dot", "block", "tick"])])
            call(wren, "set", p, f"{key}={r.choice(list(values))}")
        # Whatever tail and frets became: room for the pins, and for the neck with its frame.
        code, said = call(wren, "set", p, "body.blank.length=660", "neck.blank.length=930")
        if code:
            raise SystemExit(said)
        out[p.stem] = p
    return out


def turn_of(kinds, part, project, count):
    """`count` of them, going round: the next project goes on where this one ends, each part from another place."""
    mixed = random.Random(part).sample(kinds, len(kinds))
    return [mixed[(project * count + k) % len(mixed)] for k in range(min(count, len(mixed)))]


def main():
    ask = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    ask.add_argument("wren", type=pathlib.Path)
    ask.add_argument("--full", action="store_true")
    ask.add_argument("--random", type=int, default=0)
    ask.add_argument("--parts", default="")
    ask.add_argument("--projects", default="")
    ask.add_argument("--only", default="")
    ask.add_argument("--kinds", type=int, default=0, help="so many kinds of each part of a project, in turn; 0: all")
    ask.add_argument("--seed", type=int, default=7)
    ask.add_argument("--jobs", type=int, default=2)
    ask.add_argument("--log", type=pathlib.Path, help="keeps each answer there, and asks nothing that it holds")
    ask.add_argument("--say", action="store_true", help="what the proof said to each")
    a = ask.parse_args()
    wren = a.wren.resolve()
    log = Log(a.log, wren)
    begun = time.time()
    root = pathlib.Path(tempfile.mkdtemp(prefix="wren-mutations-"))
    if a.full or a.random or a.parts or a.projects:
        parts = a.parts.split(",") if a.parts else PARTS
        names = a.projects.split(",") if a.projects else ["reedling", "sedge", *VARIANTS] if a.full or not a.random else []
        have = projects(wren, root, names, a.random)
        wanted = [(n, p, None) for n in have for p in parts]
    else:
        wanted = SAMPLE
        have = projects(wren, root, sorted({n for n, _, _ in wanted}), 0)
    only = set(a.only.split(",")) if a.only else None
    faults, used, done = [], {}, 0
    with concurrent.futures.ThreadPoolExecutor(a.jobs) as pool:
        cases = list(pool.map(lambda w: (Case(wren, have[w[0]], w[1], root), w), wanted))
        jobs = []
        for case, (name, part, sample) in cases:
            if not case.there:
                continue
            if not case.proved:
                faults.append(f"{name} {part}: the good programs are not proved: {case.said[-600:]}")
                continue
            kinds = [(k, "harm", f) for k, (_, _, f) in harmful.KINDS.items()] + [(k, "none", f) for k, (_, f) in harmless.KINDS.items()]
            if only:
                kinds = [k for k in kinds if k[0] in only]
            if a.kinds and not only:
                kinds = turn_of(kinds, parts.index(part), list(have).index(name), a.kinds)
            if sample and not only:
                kinds = random.Random(a.seed).sample(kinds, sample)
            for k, harm, f in kinds:
                jobs.append((name, part, k, harm, pool.submit(log.ask, (name, part, k, a.seed), functools.partial(case.run, k, f, a.seed))))
        for name, part, k, harm, job in jobs:
            applies, code, said = job.result()
            if not applies:
                continue
            done += 1
            used[k] = used.get(k, 0) + 1
            last = [l for l in said.splitlines() if l.startswith(("stop:", "wren:"))][:1]
            if a.say:
                print(f"{name:10} {part:12} {k:28} {code} {last[0][:150] if last else ''}", flush=True)
            if code not in (0, 1, 3):
                faults.append(f"{name} {part} {k}: exit {code}: {said[-300:]}")
            elif harm == "harm" and code == 0:
                faults.append(f"{name} {part} {k}: {harmful.KINDS[k][1]}: PROVED all the same")
            elif harm == "none" and code != 0:
                faults.append(f"{name} {part} {k}: does no harm, and is refused: {said[-400:]}")
    if a.full and not only:
        for k in list(harmful.KINDS) + list(harmless.KINDS):
            if k not in used:
                faults.append(f"{k} applies to no part: the catalogue does not know how to make it")
    told = (HERE.parent.parent / "docs" / "proof.md").read_text()
    for k in list(harmful.KINDS) + list(harmless.KINDS):
        if f"`{k}`" not in told:
            faults.append(f"{k} does not stand in docs/proof.md")
    for f in faults:
        print(f)
    print(f"{done} changed sets of programs, {len(used)} kinds, {len(faults)} faults, {time.time() - begun:.0f} s")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
