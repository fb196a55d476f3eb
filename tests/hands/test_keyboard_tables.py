"""What is added to a plan and taken out of it on the Tables page, without a mouse."""

from jaunty_copper.plan import edits
from jaunty_copper.plan.model import Chassis, ChassisPoint

from .person import of
from .test_keyboard_pages import done, press
from .test_tables import TABLE, at


def go(person, sheet):
    """Open the page, and go to a sheet of it by its list."""
    person.key("alt+7")
    person.tab_to("Which table", "List")
    person.key("home")
    for _ in range(40):
        if person.all(sheet, "Cell", within="Which table", current=True):
            break
        person.key("down")
    person.calm()
    assert person.all(sheet, "Cell", within="Which table", current=True), sheet


def to_cell(person, row_text, title):
    """Go to a cell by arrow keys, from the first one."""
    wanted = at(person, row_text, title)
    person.tab_to(TABLE, "Table")
    person.key("ctrl+home")
    person.key(*["down"] * wanted["row"], *["right"] * person.ask("heads", of=TABLE).index(title))


def add(person, entry):
    press(person, "Add")
    person.until(person.menus, "what can be added")
    person.follow((entry,), "keyboard")


def test_own_parts_without_a_mouse(person):
    person.open_copy()
    for sheet, like, field in (
        ("Own sizes", "like 16 mm²", "conductors"), ("Own chemistries", "like AGM lead-acid", "battery_chemistries"),
    ):  # fmt: skip
        go(person, sheet)
        add(person, like)
        person.sees("Its short name")
        person.type("shop-one\n")
        person.until(lambda f=field: person.saved().get("parts", {}).get(f), "the own part")
        to_cell(person, "shop-one", "Name")
        person.type("from the shop\n")
        person.until(lambda f=field: person.saved()["parts"][f][0]["label"] == "from the shop", "its name")
    done(person, "tables", "a part of one's own")


def test_studs_and_what_is_removed_without_a_mouse(person):
    person.open_copy(
        change=lambda plan: edits.add(plan, Chassis(id="H1", name="Frame", points=(ChassisPoint(id="p1"),)))
    )
    go(person, "Studs")
    _, after = person.edited(lambda: add(person, "on Frame"))
    assert [p["id"] for p in of(after, "H1")["points"]] == ["p1", "p2"]
    done(person, "tables", "one more stud, or point of the chassis")
    go(person, "Equipment")
    to_cell(person, "Well pump", "Name")
    person.key("shift+down")
    # Tab would go through all cells: Escape leads out, with what is selected as it is.
    person.key("escape")
    before, after = person.edited(lambda: press(person, "Remove"))
    assert len(after["equipment"]) == len(before["equipment"]) - 2
    done(person, "tables", "remove what is selected")
    person.key("ctrl+z")
    person.until(lambda: len(person.saved()["equipment"]) == len(before["equipment"]), "both again")
    to_cell(person, "Drying fan", "Name")
    _, after = person.edited(lambda: person.key("ctrl+delete"))
    assert len(after["equipment"]) == len(before["equipment"]) - 1
    assert of(after, "FAN") is None
    done(person, "tables", "remove what is selected, by its key")


def test_a_finding_in_a_fold_and_a_load_without_a_mouse(person):
    person.open_copy()
    person.seek("P24")
    person.key("f")
    person.until(lambda: "PUMP" not in person.places(), "the circuits folded")
    person.key("f7", "home")
    wanted = "danger: W40, 24 V plus bar*"
    for _ in range(20):
        if person.all(wanted, "Cell", within="Findings", current=True):
            break
        person.key("down")
    person.until(lambda: person.ask("selected") == "W40" and "W40" in person.places(), "the conductor, unfolded")
    done(person, "views", "a finding inside a fold opens it")
    person.seek("P12")
    before = person.saved()
    _, after = person.edited(
        lambda: (
            person.key("space"),
            person.until(person.menus, "a menu"),
            person.follow(("Add circuit", "Load of constant power"), "keyboard"),
        )
    )
    assert len(after["equipment"]) == len(before["equipment"]) + 1
    done(person, "map: bar", "Add circuit › Load of constant power")
