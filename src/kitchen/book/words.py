"""What the book says, by code."""

from __future__ import annotations

from .models import Entry

Kind = Entry.Kind
# The subject of an entry, as its field is labelled.
WHAT = {
    Kind.COLD: "Place or item", Kind.HOT: "Place or item", Kind.REHEAT: "What", Kind.DELIVERY: "Item and supplier",
    Kind.NOTE: "Subject",
}  # fmt: skip
# Kinds of events, in the list of who did what.
EVENTS = {
    "started": "began",
    "done": "did a step",
    "undone": "undid a step",
    "checked": "checked",
    "corrected": "corrective action",
    "finished": "finished",
    "stopped": "stopped",
    "late": "postponed",
    "told": "reported",
    "cold": "put in the cold",
    "read": "read",
    "used": "removed",
    "setting": "at its setting",
    "ice": "in melting ice",
    "boil": "in boiling water",
}
