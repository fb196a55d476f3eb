"""Whatever a plan is, the window's own widgets draw it."""

import random

from jaunty_copper.desktop.pages import PAGES
from jaunty_copper.desktop.shell.document import Document
from jaunty_copper.documents.map.lens import LENSES


def draw(window, picture, seed=0, things=3):
    """Show a picture of a plan on every page, through every lens, with some things selected.

    Parameters
    ----------
    window : Window
        On any platform.
    picture : Picture
        Studied.
    things : int
        How many to select; all where 0.
    """
    plan = picture.plan
    window.replace_document(Document(plan))
    window._show(picture)
    places = [*plan.by_id, *plan.run_by_id, *(s.ref for s in picture.diagram.studs)]
    chosen = random.Random(seed).sample(places, min(things, len(places))) if things else places
    window.show_page("map")
    for lens in LENSES:
        window.set_lens(lens.id)
        for place in [None, *chosen]:
            window.map.select(place)
            window.grab()
    for scenario in (None, *(s.id for s in plan.scenarios[:2])):
        window.scenarios.show(scenario)
        window.grab()
    for page in PAGES:
        window.show_page(page)
        window.pages[page].select(chosen[0] if chosen else None) if page in window.pages else None
        window.grab()
