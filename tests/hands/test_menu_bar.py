"""Every entry of the menu bar, by mouse and by keyboard."""

import json

import pytest
from pypdfium2 import PdfDocument

from jaunty_copper.plan import edits
from jaunty_copper.plan.files import dumps
from jaunty_copper.plan.model import Inverter

from . import gestures
from .gestures import BOTH
from .person import of
from .program import others_ended

by_both = pytest.mark.parametrize("by", BOTH)


def begin(person, entry, sees, button, by):
    """A dialog of the Plan menu that works something out, opened and set to work."""
    person.menu("Plan", entry, by=by)
    person.sees(sees)
    if by == "mouse":
        person.click(button, "Button")
    else:
        person.key("return")


def press(person, button, by):
    """A button of a dialog, clicked, or gone to with the Tab key."""
    if by == "mouse":
        person.click(button, "Button")
        return
    person.until(lambda: (person.focused() or {}).get("name") == button or person.key("tab"), button)
    person.key("space")


def test_what_the_menu_bar_offers_is_known(person):
    person.open_copy()
    for entry in person.ask("inventory", ids={})["bar"]:
        path = [part.partition(":")[0] for part in entry["path"]]
        if path[:2] != ["File", "Open recent"]:
            gestures.write("offered", area="menu bar", gesture=" › ".join(path), by=BOTH)
        for key in entry["keys"]:
            gestures.write("offered", area="keys of the menus", gesture=f"{key}: {path[-1]}", by=["keyboard"])


@by_both
def test_file_new_and_examples(person, by):
    person.start("new")
    for title, words in (
        ("Orchard station", "Quince Hollow orchard station"),
        ("Relay mast", "Bracken Top relay"),
        ("Seed shed", "shed"),
    ):
        person.menu("File", "Open example", title, by=by)
        person.calm()
        person.sees(words)
    person.menu("File", "New", by=by)
    person.sees("Draw it")
    if by == "mouse":
        person.click("Draw it", "Button")
    else:
        person.key("return")
    person.sees("New plan — not saved yet")
    person.calm()
    # But for the question how it is bonded.
    assert [c["name"].partition(":")[0] for c in person.all("*", "Cell", within="Findings")] == ["advice"]


@by_both
def test_file_open_save_and_recent(person, by):
    person.open_copy()
    person.select("PUMP")
    person.fill("Power, W", "500")
    person.calm()
    person.menu("File", "Save", by=by)
    person.sees("Saved orchard_station.copper.json")
    assert of(json.loads(person.file.read_text()), "PUMP")["power_w"] == 500
    second = person.folder / "second.copper.json"
    person.menu("File", "Save as…", by=by)
    person.sees("File name:")
    person.key("ctrl+a")
    person.type(f"{second}\n")
    person.until(second.exists, "the second file")
    person.sees("second.copper.json")
    person.menu("File", "Open…", by=by)
    person.sees("File name:")
    person.type(f"{person.file}\n")
    person.sees("orchard_station.copper.json — Jaunty Copper")
    person.menu("File", "Open recent", str(second), by=by, record=False)
    person.sees("second.copper.json — Jaunty Copper")
    person.record(area="files", gesture="open a recent file", by=by)


@by_both
def test_file_export(person, by):
    person.open_copy()
    for entry, name, begin in (
        ("Report as PDF…", "report.pdf", b"%PDF"), ("All tables as a spreadsheet…", "tables.xlsx", b"PK"),
        ("Labels as PDF…", "labels.pdf", b"%PDF"), ("Map as SVG…", "map.svg", b"<svg"),
    ):  # fmt: skip
        file = person.folder / name
        person.menu("File", "Export", entry, by=by)
        if name == "report.pdf":
            person.sees("What an inspector reads", "Appendices")
            person.click("Materials", "CheckBox")
            person.fill_in_dialog("Author", "Somebody")
            person.fill_in_dialog("Logo", str(person.file))
            person.click("Write…", "Button")
            person.sees(f"{person.file.name}: the logo is no picture")
            person.fill_in_dialog("Logo", "")
            person.key("backspace")
            person.until(lambda: person.value("Logo", "EditableText") == "", "no logo")
            person.key("return") if by == "keyboard" else person.click("Write…", "Button")
        person.names_file(file)
        person.sees("Written to", name)
        assert file.read_bytes().lstrip().startswith(begin) or begin in file.read_bytes()[:200]
        if name == "report.pdf":
            pages = PdfDocument(file.read_bytes())
            text = "".join(page.get_textpage().get_text_range() for page in pages)
            assert "By Somebody." in text
            assert "cable 70 mm²" in text, "the chapter that was ticked"
            assert len(pages) < 14
        person.click("Close", "Button")


def choose_another(person, choice, plan, by):
    """Put the plan as it was beside the one that is open, and choose it."""
    other = person.folder / "other.copper.json"
    other.write_bytes(dumps(edits.change_plan(plan, name="As it was")))
    person.choose(choice, "another plan…", by=by)
    person.names_file(other)


@by_both
def test_file_compare(person, by):
    plan = person.open_copy()
    person.saved()
    person.select("W60")
    person.edited(lambda: person.fill("Length one way, m", "20"))
    person.menu("File", "Compare with…", by=by)
    # The edit was saved with `edited`; against another code of the same plan there is no difference but findings.
    person.choose("Compare with", "this plan by Fixed installation, IEC 60364", by=by)
    person.sees("0 differences", "new.")
    choose_another(person, "Compare with", plan, by)
    person.sees("Before: As it was", "2 differences")
    person.click("What differs*")
    x, y, w, h = person.find("W60", "Cell", within="What is not the same")["rect"]
    if by == "mouse":
        person.screen.click(x + w / 2, y + h / 2)
    else:
        person.screen.click(x + w / 2, y + h / 2)
        person.key("return")
    report = person.folder / "differences.pdf"
    person.click("Maps")
    boxes = [
        tuple(map(round, (x, y, x + w, y + h)))
        for x, y, w, h in (person.find(f"Map {s}")["rect"] for s in ("before", "after"))
    ]
    before = [person.picture().crop(box) for box in boxes]
    person.choose("Lens of both maps", "Guard", by=by)
    person.until(
        lambda: all(person.picture().crop(b) != was for b, was in zip(boxes, before, strict=True)),
        "both maps otherwise",
    )
    person.record(area="files", gesture="look at two maps side by side through one lens", by=by)
    # What is chosen on one of them is chosen on the other, and on the window's own map.
    before = [person.picture().crop(box) for box in boxes]
    chosen = "W60 · conductor"
    person.until(lambda: chosen in person.words(), "the conductor, still chosen")
    if by == "keyboard":
        person.tab_to("Map before")
        person.key("right")
    else:
        left, top, right, bottom = boxes[0]
        for y in range(top + 30, bottom, 16):
            person.screen.click((left + right) / 2, y)
            person.calm()
            if chosen not in person.words():
                break
    person.until(lambda: chosen not in person.words(), "something else, chosen on one of the two maps")
    person.until(
        lambda: all(person.picture().crop(b) != was for b, was in zip(boxes, before, strict=True)), "it on both maps"
    )
    person.record(area="files", gesture="choose something on one of two maps", by=by)
    if by == "mouse":
        person.click("Report…", "Button")
        person.names_file(report)
        person.sees("Written to")
        assert report.read_bytes().startswith(b"%PDF")
    person.click("Mark on the map", "Button")
    person.key("escape")
    person.sees_no("Compare with")
    person.until(lambda: person.all("W60*") or "W60" in person.words(), "what was chosen in it")
    person.record(area="files", gesture="compare with another plan, and by another code", by=by)


@by_both
def test_file_alter(person, by):
    plan = person.open_copy()
    person.saved()
    person.select("W60")
    person.edited(lambda: person.fill("Length one way, m", "20"))
    person.menu("File", "Alter from…", by=by)
    person.sees("There is nothing to do on site")
    choose_another(person, "As it is", plan, by)
    person.sees("Before: As it was", "Live meanwhile", "Make safe", "Open Main switch")
    if by == "mouse":
        person.click("1. *", "CheckBox")
    else:
        for _ in range(12):
            if ((person.focused() or {}).get("name") or "").startswith("1. "):
                break
            person.key("tab")
        person.key("space")
    person.sees("1 of ", " steps done")
    x, y, w, h = person.find("Order of the work")["rect"]
    for _ in range(30):
        if "Remove cable W60" in person.words():
            break
        person.screen.wheel(x + w / 2, y + h / 2, -2)
    person.sees("Remove cable W60")
    if by == "mouse":
        person.click("Readings (*")
        person.sees("volts")
        person.click("Buy (*")
        person.sees("lug")
        report = person.folder / "alteration.pdf"
        person.click("Report…", "Button")
        person.names_file(report)
        person.sees("Written to")
        assert report.read_bytes().startswith(b"%PDF")
    person.click("Mark on the map", "Button")
    person.key("escape")
    person.sees_no("Live meanwhile")
    person.until(lambda: "W60" in person.words(), "what is altered")
    (done,) = person.saved()["done"]
    assert done.startswith("alter-safe-")
    person.record(area="files", gesture="the order of work from another plan to this one", by=by)


@by_both
def test_help_pages(person, by):
    person.open_copy()
    person.menu("Help", "Pages on methods and codes", by=by)
    person.sees("A tour in ten minutes", "Read the map")
    if by == "mouse":
        person.click("Search all pages", "EditableText")
    person.type("minimum cut opened nearest")
    only = {"Altering a system that exists"}
    person.until(lambda: {n["name"] for n in person.all(role="Cell", within="Pages")} == only, "one page")
    person.sees("Made safe by the nearest cut")
    person.key("ctrl+a", "delete")
    if by == "mouse":
        person.click("Ampacity", "Cell")
    else:
        person.key("tab")
        person.type("Amp")
    person.sees("Three figures compete")
    person.key("escape")
    person.sees_no("Search all pages")
    person.record(area="help", gesture="read and search pages", by=by)


@by_both
def test_plan_vary(person, by):
    person.open_copy()
    person.menu("Plan", "What is not known…", by=by)
    person.sees("2000 variants", "kept in some and broken in others")
    person.until(lambda: person.all("what Generator breaker holds*", "Cell"), "what matters")
    person.until(lambda: "60 of them judged by every rule" in person.words(), "the other rules")
    person.find("Inrush of capacitors, Main switch", "Cell", within="Chances")
    x, y, w, h = person.find("Voltage drop, Well pump", "Cell", within="Chances")["rect"]
    person.screen.click(x + w / 2, y + h / 2)
    if by == "keyboard":
        person.key("return")
    person.fill_in_dialog("Variants", "300")
    if by == "mouse":
        person.click("Vary again", "Button")
    else:
        person.key("tab", "space")
    person.sees("300 variants")
    person.key("escape")
    person.sees_no("300 variants")
    person.until(lambda: "PUMP" in person.words(), "what was chosen in it")
    person.record(area="dialogs", gesture="what is not known: chances, what matters", by=by)


@by_both
def test_plan_sizes(person, by):
    person.open_copy("seed_shed")
    begin(person, "Choose sizes at the least cost…", "What is to be least", "Choose sizes", by)
    person.until(lambda: "no rule of sizes finds wrong" in person.words(), "an answer with its proof")
    if by == "mouse":
        person.click("Price against loss", "Button")
        person.until(lambda: len(person.all("*", "Cell", within="Price against loss")) >= 9, "the curve")
        # The dot at the other end of the curve than the one that is chosen, in the upper left corner.
        x, y, _, _ = person.find("Curve of price against loss")["rect"]
        for dx, dy in ((dx, dy) for dx in range(66, 110, 6) for dy in range(12, 42, 6)):
            person.screen.click(x + dx, y + dy)
            if "with what its losses cost" in person.words():
                break
        person.until(lambda: "with what its losses cost" in person.words(), "the point that was clicked on the curve")
        x, y, w, h = person.all("*", "Cell", within="Price against loss")[0]["rect"]
        person.screen.click(x + w / 2, y + h / 2)
        person.until(lambda: "with what its losses cost" not in person.words(), "the cheapest, chosen in the table")

    before, after = person.edited(lambda: press(person, "Take these sizes", by))
    assert before["runs"] != after["runs"]
    assert [r["id"] for r in before["runs"]] == [r["id"] for r in after["runs"]]
    person.record(area="dialogs", gesture="sizes at the least cost, the curve, take one", by=by)


@by_both
def test_plan_draft(person, by):
    # So much that 12 V are no plan: the first row says why, and the cheapest that can be taken is chosen.
    person.open_copy(
        "seed_shed", lambda plan: edits.add(plan, Inverter(id="BIG", name="Kiln", power_w=3200.0, nominal_v=12.0))
    )
    person.menu("Plan", "Draft whole plans from the needs…", by=by)
    person.sees("Days without a source")
    person.choose("Chemistry", "lithium iron phosphate", by)
    person.click("Draft", "Button") if by == "mouse" else person.key("return")
    person.until(lambda: "without a finding; choose one" in person.words(), "all drafts")
    person.sees("For it: the cheapest")

    before, after = person.edited(lambda: press(person, "Take this one", by))
    assert after["items"] != before["items"]
    assert {e["name"] for e in before["equipment"]} <= {e["name"] for e in after["equipment"]}
    person.until(lambda: not person.all("danger*", "Cell", within="Findings"), "no danger")
    person.record(area="dialogs", gesture="draft whole plans, take one", by=by)


@by_both
def test_file_quit(person, by):
    person.open_copy(fresh=True)
    person.menu("File", "Quit", by=by)
    person.until(lambda: not person.program.runs, "the end")
    assert person.program.process.returned == 0


@by_both
def test_edit(person, by):
    plan = person.open_copy()
    first = person.saved()
    person.select("PUMP")
    person.fill("Power, W", "500")
    person.menu("Edit", "Undo*", by=by)
    assert person.saved() == first
    person.menu("Edit", "Redo*", by=by)
    assert of(person.saved(), "PUMP")["power_w"] == 500
    person.select("W21")

    def insert():
        person.menu("Edit", "Insert, add or replace here…", by=by, then=("Insert", "Shunt"))

    _, after = person.edited(insert)
    assert sum(x["kind"] == "shunt" for x in after["items"]) == sum(x.kind == "shunt" for x in plan.items) + 1
    person.key("f8")
    person.calm()
    person.until(lambda: person.all(role="Cell", within="Findings", current=True), "a finding")
    person.edited(lambda: person.menu("Edit", "Apply the finding's fix", by=by))


@by_both
def test_plan_menu(person, by):
    plan = person.open_copy()

    def current():
        return [c["name"] for c in person.all(role="Cell", within="Findings", current=True)]

    person.menu("Plan", "Next finding", by=by)
    first = person.until(current, "a finding")
    person.calm()
    person.menu("Plan", "Next finding", by=by)
    person.until(lambda: current() and current() != first, "the next finding")
    person.menu("Plan", "Previous finding", by=by)
    person.until(lambda: current() == first, "the first finding")
    person.menu("Plan", "Add a line of equipment", by=by)
    person.until(lambda: (person.focused() or {}).get("name") == "Add a line", "the keyboard in the line")
    person.type("Porch lamp 30 W 4 m")
    person.key("return")
    person.sees("Wire up 1")
    _, after = person.edited(lambda: person.menu("Plan", "Wire up what is loose", by=by))
    (lamp,) = [e for e in after["equipment"] if e.get("name") == "Porch lamp"]
    assert sum(f"{lamp['id']}." in ref for r in after["runs"] for ref in (r["a"], r["b"])) == 2
    person.key("alt+3")
    person.menu("Plan", "Add equipment…", by=by)
    person.until(lambda: (person.focused() or {}).get("name") == "What it is", "the keyboard in the line")
    person.type("Porch heater 60 W 5 m")
    person.until(lambda: person.all("Add it", "Button", enabled=True), "something to add")

    def add():
        if by == "mouse":
            person.click("Add it", "Button")
        else:
            person.key("return")

    before, after = person.edited(add)
    (heater,) = [e for e in after["equipment"] if e.get("name") == "Porch heater"]
    assert sum(f"{heater['id']}." in ref for r in after["runs"] for ref in (r["a"], r["b"])) == 2
    person.menu("Plan", "Add a bank…", by=by)
    person.sees("Its minus")

    def draw():
        if by == "mouse":
            person.click("Draw it", "Button")
        else:
            person.key("return")

    before, after = person.edited(draw)
    assert [x["kind"] for x in after["items"]].count("battery") == [x["kind"] for x in before["items"]].count(
        "battery"
    ) + 1
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert person.saved() == before
    person.key("alt+3")
    person.select("P24")
    before, after = person.edited(lambda: person.menu("Plan", "Redraft this bar", by=by))
    person.sees("24 V plus bar drafted anew")
    (fuse,) = [x for x in after["items"] if x.get("name") == "Inverter fuse"]
    assert {r["follows_load"] for r in after["runs"] if fuse["id"] in (r["a"].split(".")[0], r["b"].split(".")[0])} == {
        True
    }
    person.undo()
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    assert person.saved() == before
    person.record(area="the plan", gesture="draft a bar anew", by=by)
    person.menu("Plan", "Protect the whole plan…", by=by)
    person.sees("Make these changes")
    person.until(lambda: person.all("Make these changes", enabled=True), "a proposal")
    person.key("escape")
    person.sees_no("Make these changes")
    person.key("alt+3")
    person.select("F2")
    person.menu("Plan", "Short circuit here", by=by)
    person.sees("at most")
    person.key("alt+3")
    person.menu("Plan", "A device of your own…", by=by)
    person.sees("Add to this plan")
    person.key("escape")
    person.sees_no("Add to this plan")
    scenario = person.value("Scenario", "ComboBox")
    person.menu("Plan", "Next scenario", by=by)
    person.until(lambda: person.value("Scenario", "ComboBox") != scenario, "another scenario")
    person.menu("Plan", "Previous scenario", by=by)
    person.until(lambda: person.value("Scenario", "ComboBox") == scenario, scenario)
    _, after = person.edited(lambda: person.menu("Plan", "New scenario like this one", by=by))
    assert len(after["scenarios"]) == len(plan.scenarios) + 1
    assert person.value("Scenario", "ComboBox") == after["scenarios"][-1]["name"]
    _, after = person.edited(lambda: person.menu("Plan", "Delete this scenario", by=by))
    assert [s["id"] for s in after["scenarios"]] == [s.id for s in plan.scenarios]
    _, after = person.edited(lambda: person.menu("Plan", "New zone", by=by))
    assert len(after["zones"]) == len(plan.zones) + 1


PAGES = {
    "needs": "Add equipment", "bank": "out of the bank in", "map": "Along the chosen row", "curves": "Path to", "build": "Cuts",
    "log": "Measure", "tables": "Left-over cable",
}  # fmt: skip
"""Pages, with words that stand on each of them only."""
LENSES = ("Flow", "Drop", "Short", "Guard", "Read", "Spread", "Heat")


@by_both
def test_view_menu(person, by):
    person.open_copy()
    for page, words in PAGES.items():
        person.menu("View", f"Go to {page}", by=by)
        person.sees(words)
        assert person.find(page.capitalize(), checked=True)
    person.menu("View", "Go to map", by=by)
    person.select("INV")
    for lens in reversed(LENSES):
        before = person.picture()
        person.menu("View", lens, by=by)
        person.find(lens, checked=True)
        person.until(lambda b=before: person.picture() != b, f"another picture by the lens {lens}")
    at = person.place("INV")
    person.menu("View", "Larger", by=by)
    person.until(lambda: person.places().get("INV") != at, "a larger map")
    person.menu("View", "Fit the width", by=by)
    person.until(lambda: person.places().get("INV") == at, "the map as it was")
    person.menu("View", "Smaller", by=by)
    person.until(lambda: person.places().get("INV") not in (at, None), "a smaller map")
    small = person.place("INV")
    person.menu("View", "Fit all", by=by)
    person.until(lambda: person.places().get("INV") not in (small, None), "the whole map")
    person.menu("View", "Fit the width", by=by)
    person.menu("View", "Fold or unfold all circuits", by=by)
    person.until(lambda: "INV" not in person.places(), "folded circuits")
    person.menu("View", "Fold or unfold all circuits", by=by)
    person.until(lambda: "INV" in person.places(), "all circuits")
    person.menu("View", "Metric or AWG", by=by)
    person.find("AWG", "Button")
    person.menu("View", "Metric or AWG", by=by)
    person.find("mm²", "Button")
    light = person.picture().getpixel((700, 600))
    person.menu("View", "Light or dark", by=by)
    person.until(lambda: sum(person.picture().getpixel((700, 600))) < sum(light) - 300, "a dark window")
    person.menu("View", "Keyboard to the findings", by=by)
    person.until(lambda: (person.focused() or {}).get("name") == "Findings", "the keyboard in the findings")
    person.menu("View", "Keyboard to the map", by=by)
    person.until(lambda: (person.focused() or {}).get("name") == "Map from plus to minus", "the keyboard on the map")
    person.menu("View", "Keyboard to the next divider", by=by)
    person.until(lambda: (person.focused() or {}).get("name", "").startswith("Divider"), "the keyboard on a divider")


@by_both
def test_something_is_found_by_its_name(person, by):
    person.open_copy()
    person.key("alt+5")
    person.menu("Edit", "Find…", by=by)
    person.type("pump fuse")
    person.until(
        lambda: not person.all("Drying fan", "Cell", within="Find"), "only what has to do with the pump's fuse"
    )
    if by == "mouse":
        person.click("F6", "Cell", within="Find", times=2)
    else:
        person.until(lambda: person.all("Pump fuse", "Cell", within="Find", current=True), "the fuse first")
        person.key("down")
        person.until(lambda: not person.all("Pump fuse", "Cell", within="Find", current=True), "what comes after it")
        person.key("up", "return")
    person.until(lambda: person.ask("selected") == "F6" and "F6" in person.places(), "the fuse on the map")
    person.record(area="dialogs", gesture="find: gone to by its name", by=by)
    person.menu("Edit", "Find…", by=by)
    person.sees("Search the plan")
    person.type("no such thing")
    person.until(lambda: not person.all(role="Cell", within="Find"), "an empty table")
    person.key("return")
    person.sees("Search the plan")
    person.key("escape")
    person.sees_no("Search the plan")


def _rail_px(person):
    """How wide the rail of pages is on the screen, down where it has no entries."""
    picture = person.picture()
    y = 600
    return next(x for x in range(4, picture.width) if picture.getpixel((x, y)) != picture.getpixel((2, y)))


@by_both
def test_size_of_text_and_drawings(person, by):
    person.open_copy()
    plain = _rail_px(person)
    for percent in (80, 100, 200, 125, 150):
        person.menu("View", "Size of text and drawings", f"{percent} %", by=by)
        person.sees(f"Text and drawings are shown at {percent} %")
    person.start("open", person.file)
    assert _rail_px(person) == pytest.approx(1.5 * plain, abs=2)


@by_both
def test_help_menu(person, by):
    person.open_copy()
    person.menu("Help", "Keys", by=by)
    person.sees("Search the keys", "Move the selected stud")
    person.type("scenario")
    person.sees_no("Move the selected stud")
    person.sees("Previous scenario")
    person.key("escape")
    person.sees_no("Previous scenario")
    for entry, words in (("Cautions", "insulated tools"), ("About", "MIT licence")):
        person.menu("Help", entry, by=by)
        person.sees(words)
        person.key("return")
        person.sees_no(words)


def test_keys_of_the_menus(person):
    """Each shortcut does what its entry does: seen on the screen, not asked of the program."""
    person.open_copy()
    first = person.saved()
    keys = {}
    for entry in person.ask("inventory", ids={})["bar"]:
        for key in entry["keys"]:
            keys[key] = entry["path"][-1].partition(":")[0]

    def press(key, seen, what):
        person.calm()
        person.key(key.lower().replace("ins", "insert").replace("ctrl++", "ctrl+plus").replace("ctrl+-", "ctrl+minus"))
        person.until(seen, what)
        person.record(area="keys of the menus", gesture=f"{key}: {keys.pop(key)}", by="keyboard")

    def shows(words):
        return lambda: words in person.words()

    def hides(words):
        return lambda: words not in person.words()

    def unsaved():
        return person.ask("plan")["unsaved"]

    for k, (page, words) in enumerate(PAGES.items()):
        press(f"Alt+{k + 1}", shows(words), page)
    person.key("alt+3")
    for k, lens in reversed(list(enumerate(LENSES))):
        press(str(k + 1), lambda lens=lens: person.all(lens, checked=True), lens)
    at = person.place("INV")
    press("Ctrl+=", lambda: person.places().get("INV") != at, "a larger map")
    press("Ctrl+0", lambda: person.places().get("INV") == at, "the map as it was")
    press("Ctrl++", lambda: person.places().get("INV") != at, "a larger map")
    large = person.places()
    press("Ctrl+-", lambda: person.places() != large, "a smaller map")
    small = person.places()
    press("Ctrl+9", lambda: person.places() != small, "the whole map")
    person.key("ctrl+0")
    press("Ctrl+Shift+F", lambda: "FAN" not in person.places(), "folded circuits")
    person.key("ctrl+shift+f")
    person.until(lambda: "FAN" in person.places(), "all circuits")
    press("Ctrl+U", lambda: person.all("AWG", "Button"), "AWG")
    person.key("ctrl+u")
    press("Ctrl+D", lambda: person.all("Light", "Button"), "dark")
    person.key("ctrl+d")
    press("F7", lambda: (person.focused() or {}).get("name") == "Findings", "the keyboard in the findings")
    press("F6", lambda: (person.focused() or {}).get("name") == "Map from plus to minus", "the keyboard on the map")
    scenario = person.value("Scenario", "ComboBox")
    for onward, back in (("]", "["), ("Ctrl+Tab", "Ctrl+Shift+Tab")):
        press(onward, lambda: person.value("Scenario", "ComboBox") != scenario, "another scenario")
        press(back, lambda: person.value("Scenario", "ComboBox") == scenario, scenario)
    person.select("F2")
    press("Ins", person.menus, "the menu of F2")
    person.key("escape")
    person.until(lambda: not person.menus(), "no menu")
    press("Ctrl+K", shows("kA at most"), "a fault in time")
    person.key("alt+3")

    for key, words in (
        ("Ctrl+Shift+K", "Vary again"), ("Ctrl+Shift+G", "Days without a source"), ("Ctrl+Shift+C", "What differs"), ("Ctrl+Shift+A", "Left over"),
        ("Ctrl+Shift+L", "What is to be least"),
    ):  # fmt: skip
        press(key, shows(words), words)
        person.key("escape")
        person.until(hides(words), "no dialog")

    def current():
        return [c["name"] for c in person.all(role="Cell", within="Findings", current=True)]

    press("F8", current, "a finding")
    one = current()
    press("Shift+F8", lambda: current() != one, "another finding")
    person.key("f8")
    person.until(lambda: current() == one, "the first finding")
    person.calm()
    press(
        "Ctrl+F6", lambda: (person.focused() or {}).get("name", "").startswith("Divider"), "the keyboard on a divider"
    )
    person.key("escape")
    person.until(lambda: not (person.focused() or {}).get("name", "").startswith("Divider"), "the keyboard back")
    press("Ctrl+M", unsaved, "what the finding says")
    press("Ctrl+Z", lambda: not unsaved(), "the plan as it was")
    press("Ctrl+Shift+Z", unsaved, "the edit again")
    person.key("ctrl+z")
    person.until(lambda: not unsaved(), "the plan as it was")
    press("Ctrl+Y", unsaved, "the edit again")
    person.select("FAN")
    press("Ctrl+A", shows("what is changed here is changed for all of them"), "all equipment")
    person.key("escape")
    person.select("PUMP")
    person.select("FAN")
    # What was copied is seen when it is pasted.
    person.key("ctrl+c")
    press("Ctrl+V", shows("Drying fan 2"), "the copy")
    person.record(area="keys of the menus", gesture=f"Ctrl+C: {keys.pop('Ctrl+C')}", by="keyboard")
    person.key("ctrl+z")
    person.until(hides("Drying fan 2"), "the plan without it")
    person.select("P24")
    press("Ctrl+Shift+R", shows("24 V plus bar drafted anew"), "the bar anew")
    person.key("ctrl+z")
    person.calm()
    # Two clicks at one place would be a double click.
    person.select("PUMP")
    person.select("FAN")
    press("Ctrl+T", shows("Keep it"), "a slider")
    person.key("escape")
    person.until(hides("Keep it"), "no slider")
    # Two clicks at one place would be a double click.
    person.select("PUMP")
    person.select("FAN")
    press("Ctrl+Shift+D", shows("Drying fan 2"), "another fan")
    person.key("ctrl+z")
    person.until(hides("Drying fan 2"), "the plan without it")
    # Two clicks at one place would be a double click.
    person.select("PUMP")
    person.select("FAN")
    press("Ctrl+X", lambda: "FAN" not in person.places(), "a map without the fan")
    person.select("PUMP")
    press("Ctrl+S", lambda: not unsaved(), "saved")
    assert json.loads(person.file.read_text()) != first
    for key, words in (
        ("F1", "Search all pages"), ("Ctrl+F1", "Search the keys"), ("Ctrl+Shift+P", "Make these changes"), ("Ctrl+P", "Show the pages…"), ("Ctrl+E", "What an inspector reads"), ("Ctrl+O", "File name:"), ("Ctrl+F", "Search the plan"),
        ("Ctrl+Shift+S", "File name:"), ("Ctrl+L", "Lay it"), ("Ctrl+Shift+E", "Joined at"), ("Ctrl+Shift+B", "Its minus"),
    ):  # fmt: skip
        press(key, shows(words), words)
        person.key("escape")
        person.until(hides(words), f"no {words}")
    count = len(person.screen.titles())
    with others_ended(person.screen):
        press("Ctrl+Shift+T", lambda: len(person.screen.titles()) == count + 1, "another window")
        # It takes the keyboard a moment after it is there: a key pressed before would go to a window that ends.
        person.until(lambda: not person.ask("active"), "the keyboard in the other window")
    person.until(lambda: person.ask("active"), "the keyboard back")
    press("Ctrl+N", shows("Draw it"), "the questions")
    person.key("return")
    person.sees("New plan — not saved yet")
    press("Ctrl+Shift+N", lambda: (person.focused() or {}).get("name") == "Add a line", "the keyboard in the line")
    person.type("Lamp 30 W 4 m")
    person.key("return")
    person.sees("Wire up 1")
    press("Ctrl+Shift+W", hides("Wire up 1"), "a circuit for it")
    person.calm()
    person.key("f6", "ctrl+z", "ctrl+z")
    person.until(lambda: not unsaved(), "the new plan as it was")
    press("Ctrl+Q", lambda: not person.program.runs, "the end")
    person.start("open", person.file)
    press("Ctrl+W", lambda: not person.program.runs, "the end")
    assert not keys, "keys that nobody pressed"
