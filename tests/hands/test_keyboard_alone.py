"""Pages and dialogs without a mouse: what a click does there, Tab, Space and Return do."""

import json

PARTS = ("Cuts", "Reels", "Materials", "Ready-made", "Studs", "Conduits", "Board", "Order")


def test_pages_without_a_mouse(person):
    person.open_copy()
    person.key("alt+2")
    person.tab_to("opposite corners*")
    before, after = person.edited(lambda: person.key("space"))
    assert {(r["a"], r["b"]) for r in before["runs"]} != {(r["a"], r["b"]) for r in after["runs"]}
    person.record(area="bank", gesture="choose a pattern", by="keyboard")
    person.key("alt+4")
    person.until(lambda: person.all("Use*"), "what fits")
    person.tab_to("Use*", "Button")
    before, after = person.edited(lambda: person.key("space"))
    assert before["items"] != after["items"]
    person.record(area="curves", gesture="use a family that fits", by="keyboard")
    person.key("alt+5")
    person.until(lambda: person.all("W21*", "Cell"), "cuts")
    person.tab_to("Findings", "List")
    person.key("tab")
    person.tab_to("Cuts")
    for part in PARTS[1:]:
        shown = person.picture().crop((60, 120, 900, 780))
        person.key("right")
        person.find(part, checked=True)
        person.until(lambda b=shown: person.picture().crop((60, 120, 900, 780)) != b, part)
        person.record(area="build", gesture=f"part {part}", by="keyboard")
    person.tab_to("?" * 25 + "*", "CheckBox")
    _, after = person.edited(lambda: person.key("space"))
    assert len(after["done"]) == 1
    person.record(area="build", gesture="tick a step", by="keyboard")


def test_dialogs_without_a_mouse(person):
    person.open_copy()

    def proposed():
        person.key("ctrl+shift+p")
        person.until(lambda: person.all("Make these changes", enabled=True), "a proposal")

    proposed()
    person.key("escape")
    person.sees_no("Make these changes")
    person.record(area="dialogs", gesture="protect the plan: cancelled", by="keyboard")

    def accept():
        proposed()
        box = person.tab_to("*→*", "CheckBox")
        person.key("space")
        person.find(box["name"], "CheckBox", checked=False)
        person.key("return")

    before, after = person.edited(accept)
    assert before["items"] != after["items"]
    person.record(area="dialogs", gesture="protect the plan: accepted, one change unticked", by="keyboard")
    person.menu("Plan", "A device of your own…", by="keyboard")
    person.sees("Add to this plan")
    person.key("return")
    person.sees("Source:")
    person.record(area="dialogs", gesture="own device: refused without a source", by="keyboard")
    person.tab_to(role="EditableText", value="own-blade-fuse")
    person.key("ctrl+a")
    person.type("shop-fuse")
    person.key(*["tab"] * 6)
    person.type("data sheet 12")
    _, after = person.edited(lambda: person.key("return"))
    assert after["parts"]["device_families"][0]["id"] == "shop-fuse"
    person.record(area="dialogs", gesture="own device: accepted", by="keyboard")
    person.key("ctrl+z")
    person.until(lambda: person.ask("plan")["unsaved"], "the edit taken back")
    kept = person.file.read_text()
    person.key("ctrl+n")
    person.sees("Save the changes to")
    person.key("escape")
    person.sees_no("Save the changes to")
    person.record(area="dialogs", gesture="unsaved changes: cancelled", by="keyboard")
    person.key("ctrl+n")
    person.sees("Save the changes to")
    person.tab_to("Discard", "Button")
    person.key("space")
    person.sees("Draw it")
    assert person.file.read_text() == kept
    person.record(area="dialogs", gesture="unsaved changes: discarded", by="keyboard")
    person.key("return")
    person.sees("New plan — not saved yet")
    person.key("ctrl+s")
    new = person.folder / "new.copper.json"
    person.names_file(new)
    person.until(new.exists, "the new plan's file")
    assert json.loads(new.read_text())["items"]
