"""The pan map: pieces in the order they were laid, and what a tap does."""

from __future__ import annotations

import datetime as dt
import json
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.files.actions import Place
from ember.files.stages import Pan
from ember.heat.lay_down import lay_down_of
from ember.track.pan_map import SEARS_FROM_C, PanMap, PieceInPan, pan_map
from kitchen.accounts.once import answers_again
from kitchen.drawings.pan_drawing import PanChart, PieceSpot, pan_chart, spots
from kitchen.web import KitchenRequest, parse_count, token_of

from . import actions, queries
from .access import cook_of
from .cook_status import CookStatus
from .errors import LineError
from .models import CookEvent
from .words import PIECE_DONE

MOST_IN_A_PAN = 12
USUAL_SIDE_S, USUAL_SIDES = 90.0, 2  # of a pan told by minutes or a core (common practice)


@dataclass(frozen=True)
class Spot:
    """A piece with its place and its words."""

    piece: PieceInPan
    at: PieceSpot
    due_at: dt.datetime
    in_s: float
    is_next: bool
    sides: tuple[float, ...]


def pans_of(status: CookStatus, stage: int) -> list[list[int]]:
    """The pieces of each pan, as many as do not crowd it."""
    pieces = status.pieces
    fits = max(min(lay_down_of(status.plan, stage).crowded_from - 1, MOST_IN_A_PAN), 1)
    return [list(range(first, min(first + fits, pieces + 1))) for first in range(1, pieces + 1, fits)]


def _began(status: CookStatus, stage: int, events: list[CookEvent]) -> dt.datetime:
    """When the pan was first used for the stage; now if it was not."""
    into = [e.at for n, e in status.done.items() if status.steps[n].stage == stage]
    return min([*into, *(event.at for event in events)], default=status.now)


def _followed(request: KitchenRequest, pk: uuid.UUID, stage: int) -> CookStatus:
    """The status of a cook with this stage in a pan. Raises Http404."""
    status = queries.status_of(cook_of(request, pk))
    stages = status.plan.stages
    if stage >= len(stages) or not isinstance(stages[stage], Pan):
        raise Http404
    return status


def pan(request: KitchenRequest, pk: uuid.UUID, stage: int) -> HttpResponse:
    """Show the map of one pan; as a fragment every second or two."""
    status = _followed(request, pk, stage)
    template = "line/_pan.html" if request.htmx and not request.htmx.boosted else "line/pan.html"
    return render(request, template, _context(request, status, stage))


def _context(request: KitchenRequest, status: CookStatus, stage: int) -> dict[str, Any]:
    pans = pans_of(status, stage)
    which = min(max(parse_count(request.GET.get("pan") or request.POST.get("pan")) or 1, 1), len(pans))
    numbers = pans[which - 1]
    events = actions.piece_events(status.cook, stage, numbers)
    began = _began(status, stage, events)
    did = [
        (numbers.index(e.data["piece"]) + 1, e.data["did"], (e.at - began).total_seconds()) for e in events
    ]  # fmt: skip
    stage_row = status.plan.stages[stage]
    assert isinstance(stage_row, Pan)  # noqa: S101  (looked up so)
    job = lay_down_of(status.plan, stage)
    side_s, sides = stage_row.side_s or USUAL_SIDE_S, stage_row.exposures or USUAL_SIDES
    now_s = max((status.now - began).total_seconds(), 0.0)
    map_now = pan_map(job, len(numbers), side_s, sides, did, now_s)
    placed = _placed(map_now, numbers, began, now_s, sides)
    last_event = events[-1].pk if events else None
    return {
        "cook": status.cook, "status": status, "stage": stage, "which": which, "pans": pans, "map": map_now,
        "spots": placed, "next": next((spot for spot in placed if spot.is_next), None), "side_s": side_s,
        "name": status.place_name(stage, Place.PAN),
        "last_event": last_event, "vessel": stage_row.pan, "now": status.now,
        "chart": _chart(map_now), "done_word": PIECE_DONE, "sears_c": SEARS_FROM_C, "token": uuid.uuid4(),
        "rate": request.kitchen.clock_rate if request.kitchen.is_demo else 1.0,
        "crowds": map_now.laid + 1 >= map_now.crowded_from and map_now.laid < len(numbers),
        "pieces": _pieces(placed, side_s, sides),
        "cools": map_now.lowest_now_c is not None and map_now.lowest_now_c < SEARS_FROM_C,
    }  # fmt: skip


def _placed(map_now: PanMap, numbers: Sequence[int], began: dt.datetime, now_s: float, sides: int) -> list[Spot]:
    coming = map_now.next
    return [
        Spot(
            piece, at, began + dt.timedelta(seconds=piece.due_s), piece.due_s - now_s,
            coming is not None and piece.number == coming.number,
            tuple(piece.side_s(side, now_s) for side in range(sides)),
        )
        for piece, at in zip(map_now.pieces, spots(numbers), strict=True)
    ]  # fmt: skip


def _pieces(placed: list[Spot], side_s: float, sides: int) -> str:
    """The actions left for each piece as JSON, for a screen without the server."""
    chain = ["lay", *["turn"] * (sides - 1), "lift"]
    rows = []
    for spot in placed:
        left = _left(spot, sides)
        due = round(spot.due_at.timestamp() * 1000)
        coming = chain[-left:] if left else []
        rows.append({"number": spot.at.number, "due": due, "side_s": side_s, "coming": coming})
    return json.dumps(rows)


def _left(spot: Spot, sides: int) -> int:
    """Taps left for a piece."""
    if not spot.piece.next:
        return 0
    return sides + 1 if spot.piece.next == "lay" else sides - len(spot.piece.downs_s) + 1


def _chart(map_now: PanMap) -> PanChart:
    return pan_chart(map_now.past, map_now.ahead_now, map_now.ahead_wait, SEARS_FROM_C)


def _once_more(request: KitchenRequest, pk: uuid.UUID, stage: int) -> HttpResponse:
    """Respond to a repeated tap with the pan as it is."""
    if request.htmx:
        return render(request, "line/_pan.html", _context(request, _followed(request, pk, stage), stage))
    which = parse_count(request.POST.get("pan"))
    return redirect(reverse("line:pan", args=[pk, stage]) + (f"?pan={which}" if which else ""))


@answers_again(_once_more)
@require_POST
def tap(request: KitchenRequest, pk: uuid.UUID, stage: int) -> HttpResponse:
    """Record that a piece was laid, turned or lifted, or undo the last such action in this pan."""
    status = _followed(request, pk, stage)
    piece, did, problem = parse_count(request.POST.get("piece")), request.POST.get("did", ""), ""
    try:
        if did == "undo":
            piece = _last_touched(status, stage, piece)
        if piece is None:
            raise LineError("Which piece? Look again.")
        meant = parse_count(request.POST.get("event")) if did == "undo" else None
        actions.do_piece(status.cook, request.user, stage, piece, did, token_of(request.POST.get("token")), meant)
    except LineError as error:
        problem = str(error)
    if request.htmx:
        context = _context(request, _followed(request, pk, stage), stage)
        return render(request, "line/_pan.html", {**context, "problem": problem})
    if problem:
        messages.error(request, problem)
    which = parse_count(request.POST.get("pan"))
    return redirect(reverse("line:pan", args=[pk, stage]) + (f"?pan={which}" if which else ""))


def _last_touched(status: CookStatus, stage: int, piece: int | None) -> int | None:
    """The piece last laid, turned or lifted in the pan of `piece`; `piece` if there is none."""
    numbers = next((numbers for numbers in pans_of(status, stage) if piece in numbers), [])
    events = actions.piece_events(status.cook, stage, numbers)
    return int(events[-1].data["piece"]) if events else piece
