"""Random hands: clicks, keys, drags, menus, typing, by a seed; and what must hold after each of them.

``./run hands --random MINUTES [--plan NAME] [--seed N]`` goes on for as long as is asked; the tests do a few hundred.
"""

import argparse
import contextlib
import random
import sys
import tempfile
import time
from pathlib import Path

from jaunty_copper.plan.files import dumps
from tests.networks import network

from .person import Person
from .program import Ended, NotSeen
from .screen import Screen

PLANS = ("orchard_station", "relay_mast", "seed_shed", "new", "network")
"""The examples, an empty plan, and a network drawn by chance from the seed: banks, converters, second bars."""
KEYS = (
    "up", "down", "left", "right", "up", "down", "left", "right", "tab", "shift+tab", "return", "escape", "space", "delete", "1", "2", "3",
    "4", "5", "f1", "f6", "f6", "f6", "f7", "f8", "shift+f8", "ctrl+z", "ctrl+z", "ctrl+y", "ctrl+m", "ctrl+k", "[", "]", "alt+1", "alt+2",
    "alt+3", "alt+3", "alt+3", "alt+4", "alt+5", "alt+6", "alt+7", "alt+7", "f", "alt+up", "alt+down", "insert", "menu", "ctrl+0", "ctrl+9", "ctrl+plus",
    "ctrl+minus", "ctrl+u", "ctrl+d", "ctrl+tab", "pageup", "pagedown", "home", "end", "ctrl+s", "ctrl+p", "ctrl+shift+p", "r", "backspace",
)  # fmt: skip
TEXTS = (
    "12", "0", "-3", "1e9", "2,5", "3 kW", "4/0", "much", "", "a name with spaces", "<b>x</b>", "=1+1", "50 %", "on", "off", "surge", "6 ft",
    "1,000", "0.0001", "99999", "x" * 60,
)  # fmt: skip
NEVER = ("New", "Open…", "Open recent", "Open example", "Save as…", "Quit")
"""Entries that leave the plan, which undo cannot take back, or the program."""
HIT = ("Button", "CheckBox", "ComboBox", "Cell", "EditableText", "Slider", "RadioButton", "Entry")
HASTE = 0.06
"""Of all gestures: two clicks at once, as somebody makes them while the program is busy."""
ANSWER_S = 1.0
"""Of the window's own computing: the longest that it may go without answering. Tests, on any machine, hold it to `HANG_S` only."""
LOOK_S = 0.7
"""A switch between light and dark styles every widget of every page anew: up to a second more, all of it inside Qt."""
HANG_S = 15.0
SWITCHES_LOOK = ("key ctrl+d", "choose 'Light or dark'", "click Button 'Dark'", "click Button 'Light'")
SAVE_EVERY = 25


class Broken(AssertionError):
    """Something that must hold after every gesture did not."""


class RandomHands:
    """One seed at one plan."""

    def __init__(self, person, plan, seed, answer_s):
        self.person, self.random, self.plan, self.answer_s = person, random.Random(seed), plan, answer_s
        self.done = []
        if plan == "new":
            person.file = person.folder / "new.copper.json"
            person.start("new")
            person.key("ctrl+s")
            person.sees("File name:")
            person.key("ctrl+a")
            person.type(f"{person.file}\n")
            person.until(person.file.exists, "the file")
            person.calm()
        elif plan == "network":
            person.file = person.folder / "network.copper.json"
            person.file.write_bytes(dumps(network(seed)))
            person.start("open", person.file)
        else:
            person.open_copy(plan)
        self.first = person.ask("plan")["text"]
        person.ask("held")

    # Gestures

    def step(self):
        """Make one gesture, and hold what must hold against it."""
        windows = self.person.windows()
        dialog = next((w for w in windows if w["kind"] == "dialog"), None)
        if self.random.random() < HASTE:
            gesture = self._hastily
        elif any(w["kind"] == "menu" for w in windows):
            gesture = self._in_menu
        elif any(w["kind"] == "list" for w in windows):
            gesture = self._in_list
        elif dialog is not None:
            gesture = self._in_dialog
        else:
            gesture = self.random.choices(
                (
                    self._key,
                    self._click_thing,
                    self._menu_of_thing,
                    self._widget,
                    self._drag,
                    self._type,
                    self._bar,
                    self._anywhere,
                ),
                (30, 14, 14, 14, 8, 10, 6, 4),
            )[0]
        self.done.append(gesture(windows, dialog))
        self._check()

    def _key(self, *_):
        key = self.random.choice(KEYS)
        self.person.key(key)
        return f"key {key}"

    def _thing(self):
        things = [(of, id_, at) for of in ("map", "bank", "board") for id_, at in self.person.places(of).items()]
        return self.random.choice(things) if things else ("", "", (300, 300))

    def _click_thing(self, *_):
        of, id_, at = self._thing()
        times = self.random.choice((1, 1, 1, 2))
        self.person.screen.click(*at, times=times)
        return f"click {times} times on {id_} on the {of} at {at}"

    def _menu_of_thing(self, *_):
        of, id_, at = self._thing()
        self.person.screen.click(*at, button=3)
        return f"right click on {id_} on the {of} at {at}"

    def _nodes(self, windows, dialog, *roles):
        shown = dialog["nodes"] if dialog is not None else [n for w in windows for n in w["nodes"]]
        return [n for n in shown if n["role"] in roles and n.get("enabled") and min(n["rect"][2:]) > 6]

    def _hit(self, node, times=1):
        x, y, w, h = node["rect"]
        self.person.screen.click(x + min(w / 2, 12 if node["role"] == "CheckBox" else w / 2), y + h / 2, times=times)

    def _widget(self, windows, dialog):
        nodes = self._nodes(
            windows, dialog, "Button", "CheckBox", "ComboBox", "Cell", "EditableText", "Slider", "RadioButton"
        )
        if not nodes:
            return self._key()
        node = self.random.choice(nodes)
        self._hit(node, self.random.choice((1, 1, 2)))
        return f"click {node['role']} {node['name'][:60]!r}"

    def _type(self, windows, dialog):
        nodes = self._nodes(windows, dialog, "EditableText", "Cell")
        if not nodes:
            return self._key()
        node = self.random.choice(nodes)
        self._hit(node, 2 if node["role"] == "Cell" else 1)
        if self.random.random() < 0.7:
            self.person.key("ctrl+a")
        text, end = self.random.choice(TEXTS), self.random.choice(("return", "tab", "escape", ""))
        self.person.type(text)
        if end:
            self.person.key(end)
        return f"type {text!r} and {end or 'nothing'} into {node['role']} {node['name'][:60]!r}"

    def _drag(self, *_):
        of, id_, at = self._thing()
        to = (at[0] + self.random.randint(-160, 160), at[1] + self.random.randint(-160, 160))
        self.person.screen.drag(at, to, steps=6)
        return f"drag {id_} on the {of} from {at} to {to}"

    def _anywhere(self, *_):
        at = (self.random.randint(70, 1270), self.random.randint(60, 790))
        self.person.screen.click(*at, button=self.random.choice((1, 1, 2, 3)))
        return f"click at {at}"

    def _bar(self, windows, _):
        entries = self._nodes(windows, None, "BarEntry")
        if not entries:
            return self._key()
        entry = self.random.choice(entries)
        self._hit(entry)
        return f"open {entry['name']}"

    def _hastily(self, windows, _):
        """Two clicks at what is in sight, the second before the program has seen the first."""
        menus = [w for w in windows if w["kind"] == "menu"]
        nodes = [n for n in self._nodes(menus or windows, None, *HIT) if not n["name"].startswith(NEVER)]
        if not nodes or any(n["name"].startswith("File name") for n in nodes):
            return self._key()
        chosen = [self.random.choice(nodes) for _ in range(2)]
        with self.person.program.halted():
            for node in chosen:
                self._hit(node)
        return " and at once ".join(f"click {n['role']} {n['name'][:60]!r}" for n in chosen)

    def _in_menu(self, windows, _):
        entries = [
            n for w in windows if w["kind"] == "menu" for n in w["nodes"] if n["role"] == "Entry" and n["enabled"]
        ]
        entries = [n for n in entries if not n["name"].startswith(NEVER)]
        if not entries or self.random.random() < 0.15:
            self.person.key("escape")
            return "escape from a menu"
        entry = self.random.choice(entries)
        self._hit(entry)
        return f"choose {entry['name']!r}"

    def _in_list(self, windows, _):
        cells = [n for w in windows if w["kind"] == "list" for n in w["nodes"] if n["role"] == "Cell"]
        if not cells or self.random.random() < 0.3:
            self.person.key("escape")
            return "escape from a list"
        cell = self.random.choice(cells)
        self._hit(cell)
        return f"choose {cell['name'][:60]!r} from a list"

    def _in_dialog(self, windows, dialog):
        if self.random.random() < 0.45:
            self.person.key("escape")
            return "escape from a dialog"
        if any(n["name"].startswith("File name") for n in dialog["nodes"]):
            self.person.key("escape")
            return "escape from a dialog of files"
        nodes = self._nodes(windows, dialog, "Button", "CheckBox", "ComboBox", "EditableText")
        if nodes:
            node = self.random.choice(nodes)
            self._hit(node)
            return f"click {node['role']} {node['name'][:60]!r} in a dialog"
        self.person.key("escape")
        return "escape from a dialog"

    # What must hold

    def _check(self):
        p = self.person
        try:
            held = p.ask("held")
            p.ask("plan")
        except Ended as error:
            raise Broken(f"the program ended: {error}") from None
        trouble = p.program.trouble()
        if trouble:
            raise Broken(trouble)
        if held > self.answer_s + LOOK_S * (self.done[-1] in SWITCHES_LOOK):
            raise Broken(f"the window did not answer for {held:.2f} s")
        if len(self.done) % SAVE_EVERY == 0:
            self.rest()
            p.key("f6")
            p.saved()

    def rest(self):
        """Leave menus and dialogs."""
        for _ in range(12):
            if all(w["kind"] == "window" for w in self.person.windows()):
                return
            self.person.key("escape")
        raise Broken(f"a dialog or menu that Escape does not leave: {self.person.words()[:500]}")

    def undo_all(self):
        """Take everything back; the first bytes again."""
        p = self.person
        self.rest()
        p.key("alt+3", "f6", "escape")
        while (held := p.ask("plan"))["undo"] is not None:
            p.key(*["ctrl+z"] * 10)
            p.until(lambda h=held: p.ask("plan")["undo"] != h["undo"] or p.ask("plan")["text"] != h["text"], "an undo")
        if held["text"] != self.first:
            raise Broken("undo does not lead back to the first bytes")
        if p.saved() is None or p.file.read_text() != self.first:
            raise Broken("what is saved after undoing everything is not what was opened")


def run(screen, folder, plan, seed, steps=None, seconds=None, answer_s=HANG_S):
    """Random gestures at one plan; the hands, all done."""
    person = Person(screen, folder, lambda **_: None)
    hands, end = None, time.monotonic() + (seconds or 1e9)
    try:
        hands = RandomHands(person, plan, seed, answer_s)
        while (steps is None or len(hands.done) < steps) and time.monotonic() < end:
            hands.step()
        hands.undo_all()
        hands._check()
    except (NotSeen, AssertionError) as error:
        with contextlib.suppress(Exception):
            person.picture().save(folder / "random.png")
        last = "\n".join(f"  {k}: {g}" for k, g in enumerate(hands.done if hands else (), 1))
        raise Broken(f"{error}\n\nplan {plan}, seed {seed}, after these gestures:\n{last[-4000:]}") from error
    finally:
        for program in person.programs:
            program.kill()
    return hands


def main(arguments=None):
    """Go on at random for some minutes."""
    parser = argparse.ArgumentParser(prog="./run hands", description=main.__doc__)
    parser.add_argument("--random", type=float, metavar="MINUTES", required=True, help="how long at each plan")
    parser.add_argument("--plan", choices=PLANS, nargs="+", default=list(PLANS))
    parser.add_argument("--seed", type=int, default=None)
    parser.add_argument(
        "--answer", type=float, metavar="SECONDS", default=ANSWER_S, help="within which the window answers"
    )
    options = parser.parse_args(arguments)
    folder = Path(tempfile.mkdtemp(prefix="random-hands-"))
    screen = Screen(folder)
    try:
        for plan in options.plan:
            seed = options.seed if options.seed is not None else random.randrange(10**6)
            own = folder / plan
            own.mkdir()
            begin = time.monotonic()
            hands = run(screen, own, plan, seed, seconds=60 * options.random, answer_s=options.answer)
            print(
                f"{plan}, seed {seed}: {len(hands.done)} gestures in {time.monotonic() - begin:.0f} s, nothing broken",
                flush=True,
            )
    except Broken as error:
        print(f"{error}\nThe screen: {own}/random.png", file=sys.stderr)
        return 1
    finally:
        screen.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
