"""The places on the rail and the pages in each: one list for the rail, the titles, the headings and the search."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

PRODUCT = "Open Ember"


@dataclass(frozen=True)
class Page:
    """A page that a place leads to. `within`: names or namespaces of the pages that open from it."""

    name: str
    url: str
    within: tuple[str, ...] = ()
    also: str = ""  # other words by which somebody may look for it
    has_strip: bool = True  # a desk needs its whole height: the strip of pages stands on the first page of its place

    def holds(self, view: str) -> bool:
        """Whether a view (its URL name) is this page, or opens from it."""
        return view == self.url or any(view == name or view.startswith(f"{name}:") for name in self.within)


@dataclass(frozen=True)
class Place:
    """A word on the rail, and the pages one tap behind it."""

    name: str
    code: str
    pages: tuple[Page, ...]

    @property
    def url(self) -> str:
        """Name of the URL the rail leads to."""
        return self.pages[0].url


PLACES = (
    Place("Today", "today", (Page("Today", "home", also="now due decide"),)),
    Place("Plan", "plan", (
        Page("Meat and fish", "plans:list", ("plans",), "plans bench roast sear new compare"),
        Page("Eggs", "eggs:first", ("eggs",), "boil poach scramble omelette sauce custard", has_strip=False),
        Page("Brines and cures", "brines:desk", ("brines",), "salt nitrite", has_strip=False),
        Page("Chilling", "batches:desk", ("batches:out", "batches:from-cook"), "cool batch", has_strip=False),
        Page("Cuts", "cuts:catalogue", ("cuts",), "catalogue animal tissue"),
        Page("Doneness", "standards:doneness", (), "rare medium temperatures"),
    )),
    Place("Service", "service", (Page("Service", "services:list", ("services",), "menu dishes plates covers"),)),
    Place("Line", "line", (Page("Line", "line:board", ("line",), "cooking timers board"),)),
    Place("Store", "store", (
        Page("Batches", "batches:shelf", ("batches",), "cooling use-by label shelf"),
        Page("Brines in progress", "brines-in-progress", ("brine-label", "start-brine"), "curing take out"),
    )),
    Place("Log", "log", (
        Page("Cooks", "logbook:log", ("logbook",), "records sign off"),
        Page("Cut faces", "faces:faces", ("faces",), "photograph slice bands grey edge picture study ruler"),
        Page("Daily log", "book:book", ("book",), "book fridge delivery note temperature"),
        Page(
            "Report", "book:report", ("book:report-pdf", "book:paper", "book:paper-stop", "book:report-more"),
            "inspection pdf csv",
        ),
        Page("Trends", "book:trends", (), "yield weeks"),
        Page("Activity", "book:who", (), "who did what audit export chain"),
    )),
    Place("Practice", "practice", (
        Page("Calls", "practice:calls", ("practice",), "press pin senses"),
        Page("Drills", "practice:drills", ("practice:drill", "practice:lay"), "train pan game"),
    )),
    Place("Kitchen", "kitchen", (
        Page("Equipment", "kit:kit", ("kit",), "ovens baths pans probes thermometer ice altitude"),
        Page("Learned calibration", "learning:learned", ("learning",), "off error proposals"),
        Page("People", "accounts:people", ("accounts:password-link",), "staff roles invite chef cook inspector"),
        Page("Devices", "kit:devices", ("readings",), "tablet token API probe box"),
        Page("Standards", "standards:mine", ("standards",), "rules food code house limits"),
        Page("Group", "groups:group", ("groups",), "several kitchens share inspector across join"),
        Page("Settings", "accounts:kitchen", (), "name time zone readings kept"),
        Page("You", "accounts:you", ("accounts:password",), "units theme night sound password sign out"),
    )),
)  # fmt: skip


def place_of(view: str) -> tuple[Place | None, Page | None]:
    """The place and page a view (its URL name) belongs to; the page named exactly first."""
    pages = [(place, page) for place in PLACES for page in place.pages]
    exact = [(place, page) for place, page in pages if page.url == view or view in page.within]
    return next(iter(exact or [found for found in pages if found[1].holds(view)]), (None, None))


HEADS = {"eggs:bench": "eggs:first", "logbook:record": "logbook:log"}  # what a page's own address redirects to


def places(request: Any) -> dict[str, Any]:
    """Template context: the rail, where this page is on it, its title, and the strip of pages beside it."""
    match = getattr(request, "resolver_match", None)
    view = match.view_name if match else ""
    view = HEADS.get(view, view)
    place, page = place_of(view)
    is_head = page is not None and page.url == view
    title = PRODUCT
    if place is not None and page is not None:
        title = " · ".join(dict.fromkeys((page.name, place.name, PRODUCT)))
    return {
        "rail_places": PLACES,
        "place_here": place,
        "page_here": page,
        "page_title": title,
        "rail_strip": place.pages if place and page and is_head and page.has_strip and len(place.pages) > 1 else (),
    }
