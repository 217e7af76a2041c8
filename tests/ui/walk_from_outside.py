#!/usr/bin/env python3
"""The window from outside, as a screen reader and a keyboard have it (AT-SPI on a bus of its own, keys by xdotool): what has
the keyboard has a name and a role; a column of numbers is typed with Tab alone and every one arrives in the file; every
remark's buttons and the picture's nodes are reached; nothing catches the keyboard. Three questions are answered from the open
demo in at most three actions each by names and texts alone; and no control is cut off on small screens.

usage: walk_from_outside.py BIN    (starts its own display and bus; system python, for pyatspi)"""
import importlib.util, json, os, pathlib, shutil, subprocess, sys, tempfile, time, unittest

BIN = pathlib.Path(sys.argv[1]).resolve()
INSIDE = "--inside" in sys.argv


def again_inside():
    """Under a display and a bus of our own: the accessibility bus is started by that one."""
    if importlib.util.find_spec("pyatspi") is None:  # not imported here: it would look for a bus
        print("no pyatspi here: install python3-pyatspi")
        return 77
    for program in ("dbus-run-session", "xdotool", "xvfb-run"):
        if shutil.which(program) is None:
            print(f"no {program} here")
            return 77
    runtime = tempfile.mkdtemp(prefix="wren-run-")
    os.chmod(runtime, 0o700)
    env = dict(os.environ, XDG_RUNTIME_DIR=runtime, QT_LINUX_ACCESSIBILITY_ALWAYS_ON="1", NO_AT_BRIDGE="0")
    try:
        return subprocess.run(["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", "dbus-run-session", "--", sys.executable, __file__, str(BIN), "--inside"], env=env).returncode
    finally:
        shutil.rmtree(runtime, ignore_errors=True)


class Window(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        """The accessibility bus is started by whoever asks first: that is us, so that no window asks a bus half made."""
        import pyatspi
        for _ in range(50):
            try:
                pyatspi.Registry.getDesktop(0).childCount
                break
            except Exception:
                time.sleep(0.1)
        time.sleep(0.5)

    def setUp(self):
        import pyatspi
        self.atspi = pyatspi
        self.dir = pathlib.Path(tempfile.mkdtemp(prefix="wren-walk-"))
        self.file = self.dir / "walk.wren"
        subprocess.run([BIN / "wren", "new", self.file, "--from", "reedling"], check=True, capture_output=True)
        env = dict(os.environ, XDG_CONFIG_HOME=str(self.dir / "config"), XDG_DATA_HOME=str(self.dir / "data"))
        self.log = open(self.dir / "log", "w")
        self.app = subprocess.Popen([BIN / "upland-wren", self.file], env=env, stdout=self.log, stderr=self.log)
        self.root = self.until(self.application, "the window is not on the accessibility bus")
        self.until(self.active, "the window does not take the keyboard")

    def numbers(self):
        """The bench opens first; the plan of the chosen line has its numbers beside it."""
        self.keys("key", "--clearmodifiers", "ctrl+1")
        return self.until(lambda: self.named("Spread at the nut", "text"), "no field 'Spread at the nut'")

    def texts(self, role=None):
        """Everything that is shown and has a name: (name, description, role)."""
        def now():
            return [(n.name, n.description or "", n.getRoleName()) for n in self.walk()
                    if n.name and n.getState().contains(self.atspi.STATE_SHOWING) and (role is None or n.getRoleName() == role)]
        return self.until(now, f"nothing is shown ({role})")

    def tearDown(self):
        self.app.kill()
        self.app.wait()
        self.log.close()
        shutil.rmtree(self.dir, ignore_errors=True)

    def keys(self, *args):
        return subprocess.run(["xdotool", *map(str, args)], capture_output=True, text=True).stdout

    def until(self, what, otherwise, seconds=45):
        end = time.monotonic() + seconds
        while time.monotonic() < end:
            try:
                found = what()
            except Exception as gone:  # made anew while it was looked at: look again
                if "No such object" not in str(gone):
                    raise
                found = None
            if found:
                return found
            time.sleep(0.05)
        self.fail(otherwise)

    def active(self):
        """There is no window manager to do it: the window is given the keyboard until it says that it has it."""
        for window in self.keys("search", "--onlyvisible", "--name", "Upland Wren").split():
            self.keys("windowfocus", "--sync", window)
        self.root.clear_cache()
        return any(self.root.getChildAtIndex(k).getState().contains(self.atspi.STATE_ACTIVE) for k in range(self.root.childCount))

    def application(self):
        for app in self.atspi.Registry.getDesktop(0):
            if app is not None and "wren" in (app.name or "").lower():
                return app
        return None

    def walk(self, node=None):
        """Everything there is, as it is now: nothing from an earlier look."""
        if node is None:
            node = self.root
            node.clear_cache()
        yield node
        try:
            children = [node.getChildAtIndex(k) for k in range(node.childCount)]
        except Exception:  # made anew while it was looked at: the new one is seen at the next look
            return
        for child in children:
            if child is not None:
                yield from self.walk(child)

    def focused(self):
        """What has the keyboard. A list's current row says so of itself always; it counts where nothing else does."""
        found = row = None
        for node in self.walk():
            state = node.getState()
            if not (state.contains(self.atspi.STATE_FOCUSED) and state.contains(self.atspi.STATE_SHOWING)):
                continue
            if node.getRoleName() in ("list item", "table cell"):
                row = node
            elif node.getRoleName() not in ("frame", "window"):
                found = node
        return found or row

    def press(self, *names):
        for name in names:
            self.keys("key", "--clearmodifiers", name)
        time.sleep(0.12)

    def named(self, name, role=None):
        for node in self.walk():
            if (node.name or "") == name and (role is None or node.getRoleName() == role) and node.getState().contains(self.atspi.STATE_SHOWING):
                return node
        return None

    def saved(self, *keys):
        out = subprocess.run([BIN / "wren", "get", self.file, *keys, "--json"], check=True, capture_output=True, text=True).stdout
        return {k: v["value"] for k, v in json.loads(out).items() if isinstance(v, dict)}

    def test_a_column_of_numbers_is_typed_with_tab_alone(self):
        field = self.numbers()
        field.queryComponent().grabFocus()
        self.until(lambda: (self.focused() and self.focused().name) == "Spread at the nut", "the field does not take the keyboard")
        self.keys("key", "ctrl+a")
        # At full speed: no pause between the keys.
        self.keys("type", "--delay", "0", "36\t")
        self.keys("type", "--delay", "0", "2.1in\t")
        self.keys("key", "ctrl+s")
        self.until(lambda: self.saved("strings.nut_spread")["strings.nut_spread"] == 36, "36 did not arrive in the file")
        self.assertAlmostEqual(self.saved("strings.bridge_spread")["strings.bridge_spread"], 53.34, places=4)
        # Typed and saved without leaving the field.
        field = self.named("Spread at the nut", "text")
        field.queryComponent().grabFocus()
        time.sleep(0.2)
        self.keys("key", "ctrl+a")
        self.keys("type", "--delay", "0", "35.5")
        self.keys("key", "ctrl+s")
        self.until(lambda: self.saved("strings.nut_spread")["strings.nut_spread"] == 35.5, "typed, Ctrl+S: not saved")
        self.assertEqual(self.focused().name, "Spread at the nut")

    def test_tab_goes_round_everything_and_all_of_it_has_a_name(self):
        self.numbers()
        # Plans of all parts come in first: each makes lists anew, and a stop that goes while it is looked at is not counted.
        self.until(lambda: all(any(t[0].startswith(part + ", ") and " left" in t[0] for t in self.texts()) for part in ("Fretboard", "Neck", "Body")), "the parts are not planned")
        time.sleep(1.0)
        # Remarks of other lines are folded under their count.
        fold = self.until(lambda: next((n for n in self.walk() if n.getRoleName() == "push button" and (n.name or "").endswith("more of other lines")), None), "no count of remarks")
        fold.queryAction().doAction(0)
        seen = []
        for _ in range(200):
            self.press("Tab")
            try:
                at = self.focused()
                if at is None:
                    continue
                up, chain = at, []
                while not at.name and up is not None and len(chain) < 5:
                    chain.append(f"{up.getRoleName()} '{up.name}' {[c.name for c in up if c is not None][:3]}")
                    up = up.parent
                here = (at.name, at.getRoleName(), *chain)
            except Exception:  # it went while it was looked at: plans come in
                continue
            if seen and here == seen[0] and len(seen) > 20:
                break
            seen.append(here)
        names = [s[0] for s in seen]
        nameless = [s for s in seen if not s[0]]
        self.assertFalse(nameless, f"{len(nameless)} stops without a name: {nameless[:3]} among {names}")
        for wanted in ("Scale length", "Spread at the nut"):
            self.assertIn(wanted, names)
        self.assertTrue(any(n.startswith("Show the place of") for n in names), "no remark's button was reached")
        self.assertGreater(len(set(names)), 12)
        # A remark's buttons follow the remarks, not something else.
        self.assertTrue(names[names.index("Remarks") + 1].startswith("Show the place of"), names)

    def test_killed_after_typing_the_work_is_offered_with_both_times(self):
        field = self.numbers()
        field.queryComponent().grabFocus()
        time.sleep(0.3)
        self.keys("key", "ctrl+a")
        self.keys("type", "--delay", "0", "36\t")
        autosave = self.dir / ".walk.wren.autosave"
        self.until(autosave.exists, "no unsaved work was kept")
        self.app.kill()
        self.app.wait()
        os.utime(self.file, (time.time() + 7200, time.time() + 7200))  # a later time of the file says nothing
        env = dict(os.environ, XDG_CONFIG_HOME=str(self.dir / "config"), XDG_DATA_HOME=str(self.dir / "data"))
        self.app = subprocess.Popen([BIN / "upland-wren", self.file], env=env, stdout=self.log, stderr=self.log)
        self.root = self.until(self.application, "the window is not on the accessibility bus")
        button = lambda begins: next((n for n in self.walk() if n.getRoleName() == "push button" and (n.name or "").startswith(begins)), None)
        restore = self.until(lambda: button("Restore work of "), "nobody asked")
        self.assertRegex(button("Keep the file of ").name, r"Keep the file of (\d{4}-\d\d-\d\d )?\d\d:\d\d$")
        self.assertRegex(restore.name, r"Restore work of (\d{4}-\d\d-\d\d )?\d\d:\d\d$")
        restore.queryAction().doAction(0)
        self.until(lambda: button("Restore work of ") is None, "the question stays")
        self.until(self.active, "the window does not take the keyboard back")
        self.numbers()
        self.until(lambda: (n := self.named("Spread at the nut", "text")) and n.queryText().getText(0, -1) == "36 mm", "the typed number is not back")
        self.assertEqual(self.saved("strings.nut_spread")["strings.nut_spread"], 35)  # restored, not saved yet

    def test_a_second_window_is_told_who_has_the_file(self):
        self.until(lambda: self.named("Bench", None), "no bench")
        env = dict(os.environ, XDG_CONFIG_HOME=str(self.dir / "config"), XDG_DATA_HOME=str(self.dir / "data"))
        second = subprocess.Popen([BIN / "upland-wren", self.file], env=env, stdout=self.log, stderr=self.log)
        try:
            def told():
                for app in self.atspi.Registry.getDesktop(0):
                    if app is not None and "wren" in (app.name or "").lower():
                        app.clear_cache()
                        for node in self.walk(app):
                            if "in use by the window since" in (node.name or ""):
                                return True
                return False
            self.until(told, "the second window does not say who has the file")
        finally:
            second.kill()
            second.wait()

    def test_three_questions_are_answered_by_names_and_texts_in_three_actions_each(self):
        # What is next, and what does it wait for? Nothing needs to be pressed: the bench opens first.
        def told(begins):
            return next((t for t in self.texts() if t[0].startswith(begins)), None)
        following = self.until(lambda: told("Next: "), "nothing says what is next")
        self.assertIn("Test slot", following[0])
        whole = next(t for t in self.texts("label") if t[0].startswith("Next: "))
        self.assertIn("test slot in scrap", whole[0])  # and what it waits for
        self.assertTrue(any("Waits for the neck" in t[0] for t in self.texts()), "what waits for what is not said")
        # Why is the pocket as deep as it is? Find it, go there: two actions; the reason stands with the field.
        self.press("ctrl+f")
        self.until(lambda: self.named("Words to find"), "no box to find with")
        self.keys("type", "--delay", "0", "pocket depth")
        self.until(lambda: any(t[0].startswith("Pocket depth") for t in self.texts()), "the pocket's depth is not found")
        self.press("Return")
        self.until(self.active, "the window does not take the keyboard back")
        field = self.until(lambda: (n := self.focused()) is not None and n.name == "Pocket depth" and n, "the field is not there")
        self.assertIn("16", field.queryText().getText(0, -1))
        self.assertIn("at the heel's end", field.description)
        why = [t[0] for t in self.texts() if "so that the lowest saddle" in t[0] or "the pocket is 16 mm deep" in t[0]]
        self.assertTrue(why, "nothing says what the depth follows from")
        # Which cutter goes in now? The button that says what is next, and one key.
        following = next(n for n in self.walk() if n.getRoleName() == "push button" and (n.name or "").startswith("Next: "))
        following.queryAction().doAction(0)
        self.press("F8")
        self.until(lambda: self.named("Cut"), "no step")
        names = [t[0] for t in self.texts("label")]
        cutter = [n for n in names if n.startswith("T") and n.split(" ")[0][1:].isdigit()]
        self.assertEqual(len(cutter), 1, names)
        self.assertIn("SLOT-0.58", cutter[0])
        self.assertTrue(any(n.endswith(".NGC") for n in names), names)
        self.assertTrue(any(n in ("PROVED", "NOT PROVED", "STOP", "CUT") for n in names), names)
        self.press("Escape")
        self.until(lambda: self.named("Bench") or self.named("Build sheet"), "the desk is not back")

    def test_nothing_is_cut_off_on_small_screens(self):
        window = self.keys("search", "--onlyvisible", "--name", "Upland Wren").split()[-1]
        for width, height in ((1280, 800), (1024, 640), (853, 533)):
            self.keys("windowsize", "--sync", window, width, height)
            time.sleep(1.0)
            for key in ("ctrl+b", "ctrl+1", "ctrl+4"):
                self.press(key)
                time.sleep(0.3)
                outside = self.until(lambda: [self.cut_off(width, height)], "nothing to look at")[0]
                self.assertFalse(outside, f"at {width} x {height} after {key}: {outside[:4]}")

    def cut_off(self, width, height):
        """What is shown and reaches beyond the window; what is scrolled out of sight in a list that scrolls does not count."""
        outside = []
        for node in self.walk():
            if not node.getState().contains(self.atspi.STATE_SHOWING) or node.getRoleName() not in ("push button", "text", "combo box", "check box", "label", "radio button"):
                continue
            at = node.queryComponent().getExtents(self.atspi.WINDOW_COORDS)
            scrolled = any(up.name in ("Numbers", "Remarks", "What to do") for up in self.above(node))
            if at.x + at.width > width + 1 or not scrolled and (at.x < -1 or at.y < -1 or at.y + at.height > height + 1):
                outside.append((node.name, node.getRoleName(), at.x, at.y, at.width, at.height))
        return outside

    def above(self, node):
        up = node.parent
        for _ in range(8):
            if up is None:
                return
            yield up
            up = up.parent

    def test_every_control_has_a_name_and_a_field_says_where_its_number_comes_from(self):
        self.numbers()
        def look():
            nameless, silent = [], []
            for node in self.walk():
                if not node.getState().contains(self.atspi.STATE_SHOWING):
                    continue
                role = node.getRoleName()
                if role in ("push button", "text", "combo box", "check box", "tree table", "tree", "list", "radio button") and not node.name:
                    nameless.append((role, node.parent.name if node.parent else ""))
                if role == "text" and node.name and not node.description:
                    silent.append(node.name)
            return nameless, silent
        nameless, silent = self.until(look, "nothing to look at")
        self.assertFalse(nameless, nameless[:5])
        self.assertFalse(silent, silent[:5])


if __name__ == "__main__":
    if not INSIDE:
        sys.exit(again_inside())
    unittest.main(argv=[sys.argv[0]])
