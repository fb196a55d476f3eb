"""The README's tour, step by step, as somebody who has just started the program would follow it."""

from .person import of


def test_the_tour(person):
    p = person

    def step(n, words):
        p.record(area="the README's tour", gesture=f"{n:02d} {words}", by="mouse")

    p.file = p.folder / "station.copper.json"
    p.start("demo")
    p.key("ctrl+shift+s")
    p.sees("File name:")
    p.key("ctrl+a")
    p.type(f"{p.file}\n")
    p.until(p.file.exists, "the file")
    p.calm()

    p.screen.move(*p.place("PUMP"))
    p.until(lambda: "Well pump" in p.ask("tip"), "the tip of the pump")
    p.click_at("B1", times=2)
    p.sees("out of the bank in")
    step(1, "read the map, open the bank")

    before = p.saved()
    p.until(lambda: p.all("opposite corners*"), "patterns")
    _, after = p.edited(lambda: p.click("opposite corners*"))
    assert after["runs"] != before["runs"]
    p.until(
        lambda: "current sharing spread 34 %" not in p.words() and "current sharing spread" in p.words(),
        "a smaller spread",
    )
    link = p.until(lambda: [id_ for id_ in p.places("bank") if not id_.startswith("B")], "a link")[0]
    _, bad = p.edited(lambda: p.context(link, "Give * a bad joint*", of="bank", kind="link"))
    _, mended = p.edited(lambda: p.key("ctrl+z"))
    assert mended == after != bad
    step(2, "let the units share, a bad joint, undo")

    p.key("alt+1")
    p.sees("347 Ah a day") if "347" in p.words() else p.sees("Ah a day")
    p.key("alt+3")
    p.sees("Along the chosen row")
    step(3, "ask what it must do")

    scenario = p.value("Scenario", "ComboBox")
    p.key("]")
    p.until(lambda: p.value("Scenario", "ComboBox") != scenario, "another scenario")
    p.key("[")
    p.until(lambda: p.value("Scenario", "ComboBox") == scenario, "the first scenario")
    p.choose("Scenario", "Worst case")
    step(4, "choose what runs")

    for key, lens in (("2", "Drop"), ("3", "Short"), ("4", "Guard"), ("2", "Drop")):
        p.key("f6", key)
        p.find(lens, checked=True)
    p.select("PUMP")
    p.sees("PUMP · constant power")
    step(5, "see where the volts go")

    p.select("F2")
    p.key("alt+4")
    p.until(lambda: "selectivity" in p.words() and p.all("Use"), "what fits")
    p.sees("at most")
    step(6, "short it")

    p.key("alt+3")
    p.click("danger: W40, 24 V plus bar*", "Cell", within="Findings")
    p.until(lambda: p.ask("selected") == "W40", "the place of the finding")
    p.sees("Put a")
    step(7, "read a finding")

    _, after = p.edited(lambda: p.click("Put a*", "Button"))
    assert len(after["items"]) == len(mended["items"]) + 1
    _, again = p.edited(lambda: p.key("ctrl+z"))
    assert again["items"] == mended["items"]
    step(8, "mend it, take it back")

    p.select("W63")
    _, after = p.edited(lambda: p.choose("Size", "10 mm²"))
    assert of(again, "W63")["conductor"] == "mm2-4"
    assert "conductor" not in of(after, "W63"), "10 mm² is what a plan means that names none"
    step(9, "change a cable")

    p.key("f6")
    _, after = p.edited(lambda: (p.key("space"), p.until(p.menus, "a menu"), p.follow(("Insert", "Shunt"), "keyboard")))
    assert sum(x["kind"] == "shunt" for x in after["items"]) == 2
    _, more = p.edited(lambda: p.context("P24.s8", "Add circuit", "Inverter", kind="bar and its studs"))
    assert len(more["equipment"]) == len(after["equipment"]) + 1
    p.key("ctrl+f1")
    p.sees("Search the keys")
    p.key("escape")
    step(10, "build")

    p.key("alt+5")
    p.until(lambda: p.all("W21*", "Cell"), "cuts")
    for part in ("Materials", "Studs", "Board", "Order"):
        p.click(part)
    step(11, "cut and buy")

    report = p.folder / "report.pdf"
    p.menu("File", "Export", "Report as PDF…")
    p.click("Write…", "Button")
    p.names_file(report)
    p.sees("Written to")
    assert report.read_bytes().startswith(b"%PDF")
    p.click("Close", "Button")
    step(12, "hand it on")

    p.key("alt+6")
    p.click("Measure")
    p.until(lambda: p.all(role="Cell", within="Readings"), "points")
    p.click("Train…", "Button")
    p.sees("Training bench")
    p.click("Read all shown", "Button")
    p.until(lambda: p.all("Read all shown") and "of" in p.words() and "readings taken" in p.words(), "readings")
    p.click("Show what was hidden", "Button")
    p.sees("Hidden was:")
    p.click("End training", "Button")
    step(13, "measure, or learn to")

    for part in ("Logbook", "Trends", "Trips"):
        p.click(part)
    p.sees("Why did it open?")
    step(14, "live with it")

    p.key("alt+3", "f6", "escape")
    p.sees("the plan")
    _, after = p.edited(lambda: p.choose("Code", "ISO small craft"))
    assert after["practice"] == "iso_small_craft"
    step(15, "change the school")

    assert p.saved()["practice"] == "iso_small_craft"
    step(16, "save")
