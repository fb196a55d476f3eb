"""The README's tour without a mouse: from the map to the report, by keys alone."""

from .person import of
from .test_keyboard_pages import press


def drop_down(person, name, text):
    """Choose from a list that drops down, of a field that Tab leads to."""
    person.tab_to(name, "ComboBox")
    person.key("home")
    for _ in range(60):
        if person.value(name, "ComboBox") == text:
            return
        person.key("down")
        person.calm()
    raise AssertionError(f"no {text!r} in {name}")


def part(person, first, wanted):
    """Go along the parts of a page to one of them."""
    person.tab_to(first, checked=True)
    for _ in range(10):
        if person.all(wanted, checked=True):
            return
        person.key("right")
    raise AssertionError(f"no part {wanted!r}")


def test_the_tour_without_a_mouse(person):
    p = person

    def step(n, words):
        p.record(area="the README's tour", gesture=f"{n:02d} {words}", by="keyboard")

    p.file = p.folder / "station.copper.json"
    p.start("demo")
    p.key("ctrl+shift+s")
    p.names_file(p.file)
    p.until(p.file.exists, "the file")
    p.calm()

    p.seek("PUMP")
    p.sees("PUMP · constant power", "Well pump")
    p.seek("B1")
    p.key("return")
    p.sees("out of the bank in")
    step(1, "read the map, open the bank")

    p.tab_to("opposite corners*")
    before, after = p.edited(lambda: p.key("space"))
    assert after["runs"] != before["runs"]
    p.until(
        lambda: "current sharing spread 34 %" not in p.words() and "current sharing spread" in p.words(),
        "a smaller spread",
    )

    def spoil():
        p.tab_to("The bank*")
        for _ in range(20):
            p.key("return")
            p.until(p.menus, "what can be done")
            if any("a bad joint" in n["name"] for m in p.menus() for n in m):
                p.follow(("Give * a bad joint*",), "keyboard")
                return
            p.key("escape")
            p.until(lambda: not p.menus(), "no menu")
            p.key("tab")
        raise AssertionError("no link of the bank")

    _, bad = p.edited(spoil)
    _, mended = p.edited(lambda: p.key("ctrl+z"))
    assert mended == after != bad
    step(2, "let the units share, a bad joint, undo")

    p.key("alt+1")
    p.sees("Ah a day")
    p.key("alt+3")
    p.sees("Along the chosen row")
    step(3, "ask what it must do")

    scenario = p.value("Scenario", "ComboBox")
    p.key("]")
    p.until(lambda: p.value("Scenario", "ComboBox") != scenario, "another scenario")
    p.key("[")
    p.until(lambda: p.value("Scenario", "ComboBox") == scenario, "the first scenario")
    drop_down(p, "Scenario", "Worst case")
    step(4, "choose what runs")

    for key, lens in (("2", "Drop"), ("3", "Short"), ("4", "Guard"), ("2", "Drop")):
        p.key("f6", key)
        p.find(lens, checked=True)
    p.seek("PUMP")
    p.sees("PUMP · constant power")
    step(5, "see where the volts go")

    p.seek("F2")
    p.key("alt+4")
    p.until(lambda: "selectivity" in p.words() and p.all("Use"), "what fits")
    p.sees("at most")
    step(6, "short it")

    p.key("alt+3", "f7", "home")
    wanted = "danger: W40, 24 V plus bar*"
    for _ in range(20):
        if p.all(wanted, "Cell", within="Findings", current=True):
            break
        p.key("down")
    p.until(lambda: p.ask("selected") == "W40", "the place of the finding")
    p.sees("Put a")
    step(7, "read a finding")

    _, after = p.edited(lambda: p.key("ctrl+m"))
    assert len(after["items"]) == len(mended["items"]) + 1
    _, again = p.edited(lambda: p.key("ctrl+z"))
    assert again["items"] == mended["items"]
    step(8, "mend it, take it back")

    p.seek("W63")
    _, after = p.edited(lambda: drop_down(p, "Size", "10 mm²"))
    assert of(again, "W63")["conductor"] == "mm2-4"
    assert "conductor" not in of(after, "W63"), "10 mm² is what a plan means that names none"
    step(9, "change a cable")

    p.key("f6")
    _, after = p.edited(lambda: (p.key("space"), p.until(p.menus, "a menu"), p.follow(("Insert", "Shunt"), "keyboard")))
    assert sum(x["kind"] == "shunt" for x in after["items"]) == 2
    p.seek("P24")
    p.key("f6")
    _, more = p.edited(
        lambda: (p.key("space"), p.until(p.menus, "a menu"), p.follow(("Add circuit", "Inverter"), "keyboard"))
    )
    assert len(more["equipment"]) == len(after["equipment"]) + 1
    p.key("ctrl+f1")
    p.sees("Search the keys")
    p.key("escape")
    p.sees_no("Search the keys")
    step(10, "build")

    p.key("alt+5")
    p.until(lambda: p.all("W21*", "Cell"), "cuts")
    for before, wanted in (("Cuts", "Materials"), ("Materials", "Studs"), ("Studs", "Board"), ("Board", "Order")):
        part(p, before, wanted)
    step(11, "cut and buy")

    report = p.folder / "report.pdf"
    p.menu("File", "Export", "Report as PDF…", by="keyboard")
    press(p, "Write…")
    p.names_file(report)
    p.sees("Written to")
    assert report.read_bytes().startswith(b"%PDF")
    press(p, "Close")
    p.sees_no("Written to")
    step(12, "hand it on")

    p.key("alt+6")
    p.until(lambda: p.all(role="Cell", within="Readings"), "points")
    press(p, "Train…")
    p.sees("Training bench")
    press(p, "Read all shown")
    p.until(lambda: p.all("Read all shown") and "of" in p.words() and "readings taken" in p.words(), "readings")
    press(p, "Show what was hidden")
    p.sees("Hidden was:")
    press(p, "End training")
    p.sees("Train…")
    step(13, "measure, or learn to")

    for before, wanted in (("Measure", "Logbook"), ("Logbook", "Trends"), ("Trends", "Trips")):
        part(p, before, wanted)
    p.sees("Why did it open?")
    step(14, "live with it")

    p.key("alt+3", "f6", "escape")
    p.sees("the plan")
    _, after = p.edited(lambda: drop_down(p, "Code", "ISO small craft"))
    assert after["practice"] == "iso_small_craft"
    step(15, "change the school")

    assert p.saved()["practice"] == "iso_small_craft"
    step(16, "save")
