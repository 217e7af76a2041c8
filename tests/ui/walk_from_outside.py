#!/usr/bin/env python3
"""The window from outside, as a screen reader and a keyboard have it (AT-SPI on a bus of its own, keys by xdotool): what has
the keyboard has a name and a role; a column of numbers is typed with Tab alone and every one arrives in the file; every
remark's buttons and the picture's nodes are reached; nothing catches the keyboard.

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
            found = what()
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
        for k in range(node.childCount):
            child = node.getChildAtIndex(k)
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
        field = self.until(lambda: self.named("Spread at the nut", "text"), "no field 'Spread at the nut'")
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
        self.until(lambda: self.named("Spread at the nut"), "no ledger")
        seen = []
        for _ in range(140):
            self.press("Tab")
            at = self.focused()
            if at is None:
                continue
            up, chain = at, []
            while not at.name and up is not None and len(chain) < 5:
                chain.append(f"{up.getRoleName()} '{up.name}' {[c.name for c in up if c is not None][:3]}")
                up = up.parent
            here = (at.name, at.getRoleName(), *chain)
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
        field = self.until(lambda: self.named("Spread at the nut", "text"), "no ledger")
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
        self.until(lambda: (n := self.named("Spread at the nut", "text")) and n.queryText().getText(0, -1) == "36 mm", "the typed number is not back")
        self.assertEqual(self.saved("strings.nut_spread")["strings.nut_spread"], 35)  # restored, not saved yet

    def test_a_second_window_is_told_who_has_the_file(self):
        self.until(lambda: self.named("Spread at the nut", "text"), "no ledger")
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


if __name__ == "__main__":
    if not INSIDE:
        sys.exit(again_inside())
    unittest.main(argv=[sys.argv[0]])
