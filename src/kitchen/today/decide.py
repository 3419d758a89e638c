"""What Today asks somebody to decide, what waits in each place, and yesterday in a line."""

from __future__ import annotations

import datetime as dt
from collections.abc import Iterator
from dataclasses import dataclass
from statistics import mean

from django.urls import reverse

from ember.judge.states import State
from kitchen.accounts.models import Kitchen, Person
from kitchen.book.models import Entry
from kitchen.brines.actions import why_not_second
from kitchen.brines.queries import unconfirmed_brines
from kitchen.groups.sharing import news_for
from kitchen.kit.models import Taught
from kitchen.learning.models import Study
from kitchen.line.models import Cook
from kitchen.logbook.models import SignOff
from kitchen.logbook.queries import finished, row_of
from kitchen.logbook.record import record_state
from kitchen.services.plates import plates_of

from .rows import MOST, Row, batch_rows, line_rows, service_rows

RULES_OF = dt.timedelta(days=3)  # entries of the daily log that missed their rule


def brine_rows(kitchen: Kitchen, person: Person) -> Iterator[Row]:
    """Brines with curing salt that nobody confirmed as they stand."""
    for brine in unconfirmed_brines(kitchen):
        mine = bool(why_not_second(brine, person))
        words = "waits for a second person to confirm it" if mine else "confirm strength, grams and meat"
        yield Row(brine.name, words, reverse("brines:kept", args=[brine.pk]))


def unsigned_rows(kitchen: Kitchen) -> tuple[list[Row], int]:
    """Finished cooks that nobody signed, the newest first, and how many there are."""
    cooks = finished(kitchen).filter(sign_off=None)
    rows = []
    for cook in cooks[:MOST]:
        missed = row_of(cook).state == State.NOT_MET
        words = "rule not met: corrective action, then sign" if missed else "read and sign"
        rows.append(Row(cook.name, words, reverse("logbook:record", args=[cook.pk]), cook.finished_at, missed))
    return rows, cooks.count()


def waiting_counts(kitchen: Kitchen, person: Person, is_chef: bool) -> dict[str, int]:
    """How many things wait for this person in each place of the rail, by its code."""
    now = kitchen.now()
    brines = [brine for brine in unconfirmed_brines(kitchen) if not why_not_second(brine, person)]
    batches = [row for row in batch_rows(kitchen, now) if row.is_late or (row.at is not None and row.at <= now)]
    services = [row for row in service_rows(kitchen, now) if row.is_late]
    late = [row for row in line_rows(kitchen, now) if row.is_late]
    waiting = {"plan": len(brines), "line": len(late), "store": len(batches), "service": len(services)}
    if is_chef:
        waiting["log"] = finished(kitchen).filter(sign_off=None).count()
    return waiting


def missed_rows(kitchen: Kitchen, now: dt.datetime) -> Iterator[Row]:
    """Entries of the daily log that missed their rule, with no corrective action and no later entry that meets it."""
    entries = Entry.objects.of(kitchen).filter(at__gte=now - RULES_OF, rule__met=False, note="").order_by("-at")
    for entry in entries[:MOST]:
        later = Entry.objects.of(kitchen).filter(kind=entry.kind, what=entry.what, at__gt=entry.at, rule__met=True)
        if entry.accepted is not False and not later.exists():
            url = f"{reverse('book:book')}?kind={entry.kind}"
            yield Row(entry.what, f"{entry.celsius:.1f} °C, rule not met: correct it and log that", url, entry.at, True)


def calibration_rows(kitchen: Kitchen) -> Iterator[Row]:
    """Proposals of the last study that nobody accepted."""
    study = Study.objects.of(kitchen).exclude(found=None).order_by("-asked_at").first()
    if study is None:
        return
    accepted = {
        (row.kind, str(row.equipment_id) if row.equipment_id else row.cut)
        for row in Taught.objects.of(kitchen).filter(at__gte=study.asked_at)
    }
    for row in study.found or []:
        if not row["why_not"] and (row["kind"], row["key"]) not in accepted:
            yield Row(row["name"], f"learned from {row['cooks']} cooks: accept or leave", reverse("learning:learned"))


def group_rows(kitchen: Kitchen) -> Iterator[Row]:
    """What the kitchen's group shares that it has not taken over."""
    for news in news_for(kitchen):
        held = f"; this kitchen has {news.held.share.number}" if news.held else ""
        words = f"version {news.share.number} from {news.share.kitchen}{held}: look, then take over"
        yield Row(news.share.name, words, reverse("groups:group"))


@dataclass(frozen=True)
class Yesterday:
    """Yesterday in a line; `not_met` of the signed cooks; `yield_off`: weighed less planned, percentage points."""

    cooks: int
    not_met: int
    unsigned: int
    late_plates: int
    yield_off: float | None

    @property
    def yield_words(self) -> str:
        """The yield against plan, with its sign."""
        return "" if self.yield_off is None else f"{self.yield_off:+.1f}".replace("-", "\u2212")


def yesterday_of(kitchen: Kitchen, now: dt.datetime) -> Yesterday:
    """What was cooked and plated yesterday, by the kitchen's clock."""
    midnight = now.astimezone(kitchen.zone).replace(hour=0, minute=0, second=0, microsecond=0)
    begin = midnight - dt.timedelta(days=1)
    cooks = Cook.objects.of(kitchen).filter(finished_at__gte=begin, finished_at__lt=midnight)
    records = list(SignOff.objects.filter(cook__in=cooks).values_list("record", flat=True))
    states = [record_state(record) for record in records]
    yields = [row["done"] - row["plan"] for record in records for row in record["off_plan"] if row["what"] == "Yield"]
    late = plates_of(kitchen, begin, midnight).late
    number = cooks.count()
    return Yesterday(number, states.count(State.NOT_MET), number - len(states), late, mean(yields) if yields else None)
