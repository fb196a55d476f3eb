"""A person at the program: looks for things by their names, and moves the mouse and the keys."""

import contextlib
import json
import re
import time
from fnmatch import fnmatchcase

from jaunty_copper.plan.examples import example
from jaunty_copper.plan.files import dumps

from .program import PATIENCE_S, SETTLE_MS, Ended, NotSeen, Program

LEAST_PX = 8
"""Of something that a person would try to hit."""


class Person:
    """Looks and acts; each gesture is written down for the table of what is covered."""

    def __init__(self, screen, folder, record):
        self.screen, self.folder, self.record = screen, folder, record
        self.program = None
        self.programs = []
        self.file = None

    # Starting and ending

    def start(self, *arguments, fresh=False):
        """Start the program, and wait until it shows figures; fresh: with an interpreter of its own from the beginning."""
        if self.program is not None:
            self.program.kill()
        self.program = Program(self.screen, self.folder, *arguments, fresh=fresh)
        self.programs.append(self.program)
        self.screen.move(2, 2)
        self.calm()

    def open_copy(self, name="orchard_station", change=None, fresh=False):
        """Start the program on a copy of an example."""
        self.file = self.folder / f"{name}.copper.json"
        plan = example(name)
        self.file.write_bytes(dumps(plan if change is None else change(plan)))
        self.start("open", self.file, fresh=fresh)
        return plan

    # Looking

    def ask(self, about, **more):
        """Ask the window what is in sight."""
        return self.program.ask(about, **more)

    def until(self, seen, what="it"):
        """Wait for something to come true; what it returned."""
        end, pause = time.monotonic() + PATIENCE_S, 0.01
        while True:
            found = seen()
            if found:
                return found
            if time.monotonic() > end:
                raise NotSeen(f"{what} did not come into sight. In sight:\n{self.words()[:2500]}")
            # Looking costs the program time too: the longer something takes, the less often.
            time.sleep(pause)
            pause = min(1.5 * pause, 0.1)

    def windows(self):
        """All windows with what is in them."""
        return self.ask("tree")

    def nodes(self):
        """Everything in sight."""
        return [n for w in self.windows() for n in w["nodes"]]

    def words(self):
        """All words in sight, one a line."""
        return self.ask("words")

    def sees(self, *words):
        """Wait until some words are in sight."""
        self.until(lambda: all(w in text for text in [self.words()] for w in words), " and ".join(map(repr, words)))

    def sees_no(self, words):
        """Wait until some words are no longer in sight."""
        self.until(lambda: words not in self.words(), f"a screen without {words!r}")

    def calm(self):
        """Wait until nothing is being computed for the map."""

        self.until(lambda: self.ask("calm"), "a window at rest")

    def all(self, name=None, role=None, **more):
        """What is in sight by that name and role."""
        return self.ask("seen", name=name, role=role, more=more)

    def find(self, name=None, role=None, **more):
        """The one thing in sight by that name and role, once it stands still."""

        def still():
            first = self.all(name, role, **more)
            if not first or min(first[0]["rect"][2:]) < LEAST_PX:
                return None
            second = self.ask("seen", name=name, role=role, more=more, after_ms=SETTLE_MS)
            return first[0] if second and first[0]["rect"] == second[0]["rect"] else None

        return self.until(still, f"{role or 'something'} called {name!r} {more or ''}")

    def value(self, name, role=None):
        """What a field shows."""
        return self.find(name, role)["value"]

    def focused(self):
        """What has the keyboard."""
        return self.ask("focused")

    def places(self, of="map", only=None):
        """Where painted things are; one of them where only that is asked for."""
        return self.ask("places", of=of, only=only)

    def place(self, id_, of="map"):
        """Where a painted thing is, once it stands still."""

        def still():
            first = self.places(of, id_).get(id_)
            if first is None:
                return None
            second = self.ask("places", of=of, only=id_, after_ms=SETTLE_MS).get(id_)
            return first if first == second else None

        return self.until(still, f"{id_} on the {of}")

    def picture(self):
        """What the screen shows."""
        return self.screen.picture()

    # Acting

    def click(self, name=None, role=None, button=1, times=1, **more):
        """Click on something in sight."""
        found = self.find(name, role, enabled=True, **more)
        x, y, w, h = found["rect"]
        # A box to tick answers at the box and its word, at its left.
        self.screen.click(x + (10 if found["role"] == "CheckBox" else w / 2), y + h / 2, button, times)

    def click_at(self, id_, of="map", button=1, times=1):
        """Click on something painted."""
        self.calm()
        self.screen.click(*self.place(id_, of), button, times)

    def select(self, id_):
        """Select something on the map by a click."""
        self.click_at(id_)
        self.until(lambda: self.ask("selected") == id_, f"{id_} selected")
        self.calm()

    def seek(self, id_):
        """Select something on the map without a mouse, by its id."""
        self.key("ctrl+f")
        self.sees("Search the plan")
        self.type(id_)
        self.until(lambda: self.all(id_, "Cell", within="Find", row=0), f"{id_} found")
        self.key("return")
        self.until(lambda: self.ask("selected") == id_, f"{id_} selected")
        self.calm()

    def key(self, *chords):
        """Press keys, one after the other, once a window of the program has the keyboard: one that closes hands it on."""
        self.until(lambda: self.ask("active"), "a window that has the keyboard")
        for chord in chords:
            self.screen.key(chord)

    def tab_to(self, name="*", role=None, most=90, **more):
        """Press Tab until something by that name and role has the keyboard."""

        def there():
            at = self.focused()
            if at is None or not fnmatchcase(at["name"], name) or role not in (None, at["role"]):
                return None
            return at if all(at.get(k) == v for k, v in more.items()) else None

        for _ in range(most):
            if found := there():
                return found
            self.key("tab")
        raise NotSeen(f"the keyboard on {role or 'something'} called {name!r}; it is on {self.focused()}")

    def type(self, text):
        """Type text where the keyboard is."""
        self.screen.type(text)

    def reach(self, name, role):
        """Turn the wheel over the panel until a field of it is in sight."""
        self.calm()

        def there():
            return any(min(n["rect"][2:]) >= 12 for n in self.all(name, role))

        if there():
            return
        x, y, _, h = self.panel()
        for clicks in (30, *(-2,) * 30):
            self.screen.wheel(x + 12, y + h / 2, clicks)
            if there():
                return
        raise NotSeen(f"the field {name!r} in the panel. In sight: {self.words()[:3000]}")

    def panel(self):
        """Where the fields of what is selected are."""
        return self.find("What is selected")["rect"]

    def fill(self, name, text, end="return"):
        """Type into a field in place of what it holds."""
        self.reach(name, "EditableText")
        self.click(name, "EditableText")
        self.until(lambda: (self.focused() or {}).get("name") == name, f"the keyboard in {name}")
        self.key("ctrl+a")
        if text:
            self.type(text)
        else:
            self.key("delete")
        if end:
            self.key(end)

    def fill_in_dialog(self, name, text):
        """Type into a field of a dialog in place of what it holds."""
        self.click(name, "EditableText")
        self.until(lambda: (self.focused() or {}).get("name") == name, f"the keyboard in {name}")
        self.key("ctrl+a")
        self.type(text)

    def names_file(self, path):
        """Type a file's name into the dialog that asks for one."""
        self.sees("File name:")
        self.key("ctrl+a")
        self.type(f"{path}\n")

    def choose(self, name, text, by="mouse"):
        """Choose from a list that drops down."""
        self.reach(name, "ComboBox")
        self.click(name, "ComboBox")
        if by == "mouse":
            x, y, w, h = self.find(text, "Cell")["rect"]
            self.screen.click(x + w / 2, y + h / 2)
        else:
            self.until(lambda: self.all(role="Cell", current=True), f"the list of {name}")
            self.key("home")
            self._walk_list(text)
            self.key("return")

    def _walk_list(self, text):
        for _ in range(200):
            cells = self.all(role="Cell", current=True)
            if any(c["name"] == text for c in cells):
                return
            self.key("down")
        raise NotSeen(f"{text} in the list")

    # Menus

    def menus(self, **when):
        """Entries of each open menu, the innermost last."""
        return [m for m in self.ask("menus", **when) if m]

    def entry(self, text):
        """An entry of an open menu."""

        def seen(**when):
            return [n for m in self.menus(**when) for n in m if matches(n["name"], text)]

        first = self.until(seen, f"the entry {text!r}")
        again = seen(after_ms=SETTLE_MS)
        return first[-1] if first and again and first[-1]["rect"] == again[-1]["rect"] else self.entry(text)

    def follow(self, path, by, leaves_menu=False):
        """Choose an entry of the open menu by the entries that lead to it; their texts in full."""
        texts = []
        for depth, text in enumerate(path):
            last = depth == len(path) - 1
            before = len(self.menus())
            found = self.entry(text)
            texts.append(found["name"])
            if by == "mouse":
                x, y, w, h = found["rect"]
                self.screen.click(x + min(w / 2, 60), y + h / 2)
            else:
                self._walk(text)
                self.key("return" if last else "right")
            if not last:
                self.until(lambda n=before: len(self.menus()) > n, f"the menu behind {text!r}")
        with contextlib.suppress(Ended):
            self.until(lambda: leaves_menu or not self.menus(), "a screen without menus")
        return texts

    def _walk(self, text):
        """Go down the open menu until an entry is highlighted."""
        self.entry(text)
        for _ in range(60):
            lit = [n for m in self.menus() for n in m if n["active"] and matches(n["name"], text)]
            if lit:
                return
            self.key("down")
        raise NotSeen(f"{text!r} cannot be reached by the keyboard")

    def menu(self, *path, by="mouse", then=(), record=True):
        """Choose from the menu bar; and from the menu that this opens."""
        self.calm()
        top = self.find(path[0], "BarEntry")
        if by == "mouse":
            x, y, w, h = top["rect"]
            self.screen.click(x + w / 2, y + h / 2)
        else:
            self.key(f"alt+{top['key']}")
        self.until(self.menus, f"the menu {path[0]}")
        texts = self.follow(path[1:], by, leaves_menu=bool(then))
        if then:
            self.until(
                lambda: self.menus() and all(n["name"] != path[-1] for m in self.menus() for n in m), "another menu"
            )
            self.follow(then, by)
        if record:
            self.record(area="menu bar", gesture=" › ".join(t.partition(":")[0] for t in (path[0], *texts)), by=by)

    def context(self, id_, *path, by="mouse", of="map", kind=""):
        """Choose from the menu of something painted."""
        self.until(lambda: not self.menus(), "the last menu gone")
        self.calm()
        if by == "mouse" and not id_:
            self.screen.click(*self.ask("empty"), button=3)
        elif by == "mouse":
            self.click_at(id_, of, button=3)
        else:
            if of == "map" and not id_:
                self.key("f6", "escape")
            elif of == "map" and self.ask("selected") != id_:
                self.select(id_)
            elif of == "bank":
                self.click_at(id_, of)
            self.key("menu" if of == "map" else "return")
        self.until(self.menus, f"the menu of {id_}")
        names = self.ask("names")
        texts = self.follow(path, by)
        self.record(area=f"{of}: {kind}", gesture=general(" › ".join(texts), names), by=by)

    # The plan, read back from the file

    def saved(self):
        """Save by the keyboard where anything is to be saved, and read the file back."""

        def written():
            text = self.file.read_text()
            held = self.ask("plan")
            return text if not held["unsaved"] and held["text"] == text else None

        text = written()
        if text is None:
            self.key("ctrl+s")
            text = self.until(written, "the saved file")
        return json.loads(text)

    def edited(self, act):
        """Do something that changes the plan; the file before and after."""
        before = self.saved()
        act()
        self.until(lambda: self.ask("plan")["unsaved"], "a plan that differs from its file")
        self.calm()
        return before, self.saved()

    def undo(self):
        """Take the last edit back, from the map."""
        self.key("f6", "ctrl+z")


def matches(name, wanted):
    """Whether an entry is the wanted one; a star stands for any text."""
    return fnmatchcase(name, wanted)


def of(plan, id_):
    """A thing of a plan as its file has it."""
    for kind in ("items", "equipment", "runs", "zones", "scenarios", "boards", "routes", "log"):
        for thing in plan.get(kind, []):
            if thing["id"] == id_:
                return thing
    return None


def general(text, names):
    """The words of an entry without the names of the things it is about, and without figures."""
    for name in names:
        text = text.replace(name, "…")
    return re.sub(r"\d+ %", "… %", text)
