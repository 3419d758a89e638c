"""The egg bench: shown, changed by its address, saved, and sent to the line."""

from __future__ import annotations

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from django.contrib import messages
from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404, redirect, render
from django.urls import reverse
from django.views.decorators.http import require_POST

from ember.eggs.emulsion import reduction_min, scaled
from ember.eggs.kinds import egg_of, equivalents
from ember.errors import EmberError
from kitchen.accounts.access import chef_required
from kitchen.accounts.editions import edition_of, wants_both
from kitchen.accounts.once import works_out_first
from kitchen.desk import saved_requests
from kitchen.desk.pages import address, fragment, is_fragment
from kitchen.desk.presenters import minutes_clock
from kitchen.drawings.egg_cut import egg_outline
from kitchen.kit.models import Equipment
from kitchen.line.step_actions import settle_steps, start_steps
from kitchen.plans.access import rules_of
from kitchen.plans.send_form import next_at
from kitchen.web import KitchenRequest, clean_text, token_of

from .bench import work_out
from .forms import BESIDE, CLOCK, FORMS, TAB_OF, TABS, YOLK_WORDS, EggForm
from .models import EggPlan
from .presenters import EggBench
from .words import NAMES

PLACES = {
    "boil": ("hob",), "steam": ("hob", "oven"), "circulator": ("bath",), "poach": ("hob", "bath"),
    "scramble": ("pan", "hob"),
    "omelette": ("pan", "hob"), "emulsion": ("hob", "bath"), "pasta": ("hob", "pan"),
    "custard": ("oven",), "stirred": ("hob",),
}  # fmt: skip
EGG_PX = 42.0
WHOLE = ("boil", "steam", "circulator", "poach")


def first(request: KitchenRequest) -> HttpResponse:
    """The bench begins with boiled eggs."""
    return redirect("eggs:bench", method="boil")


def _form_class(method: str) -> type[EggForm]:
    if method not in FORMS:
        raise Http404("There is no such egg method.")
    return FORMS[method]


def _typed(method: str, data: Mapping[str, str]) -> dict[str, Any]:
    """The form data; a tap on a word, an egg or a method overrides it."""
    values = dict(data.items())
    setting = values.pop("set", "")
    if setting:
        if setting in YOLK_WORDS:
            values["target"] = setting
        elif setting.replace(".", "", 1).isdigit():
            values |= {"target": CLOCK, "minutes": setting}
        else:
            name, _, value = setting.partition(":")
            if name in ("school", "stop", "after_bath"):
                values[name] = value
                # A school brings its own heat.
                for own in ("water", "pan_c", "stop_g", "off", "power", "stir"):
                    if values.get(own):
                        values[own] = ""
    if values.get("target") == CLOCK and not values.get("minutes"):  # a clock that was cleared goes back to the usual
        usual = _form_class(method).DEFAULTS
        values["target"] = usual.get("target", "")
        if values["target"] == CLOCK:
            values["minutes"] = f"{usual['minutes']:g}"
    if values.get("was_kind") and values.get("kind") and values["was_kind"] != values["kind"]:
        values |= {"mass": "", "girth": ""}  # another bird, another mass
    return values


def _where(request: KitchenRequest, method: str) -> list[Equipment]:
    return list(Equipment.objects.of(request.kitchen).current().filter(kind__in=PLACES[method]))


def _worked(
    request: KitchenRequest, method: str, typed: Mapping[str, Any] | None, beside: bool = True
) -> tuple[EggForm, EggBench, dict[str, Any]]:
    """The form, the bench of its request, and that request (empty if there are errors)."""
    form = _form_class(method)(typed, request.user.units, request.kitchen.altitude_m)
    bench = EggBench(method)
    if not form.is_valid():
        return form, bench, {}
    document = form.document() | {k: v for k, v in rules_of(request).items() if v is not None}
    try:
        return form, work_out(document, request.user.units, beside), document
    except EmberError as error:
        bench.problem = form.refuse(error)
        return form, bench, {}


def _context(request: KitchenRequest, form: EggForm, bench: EggBench, **more: Any) -> dict[str, Any]:
    method = bench.method
    tab = TAB_OF.get(method, method)
    context = {
        "form": form,
        "bench": bench,
        "answer": bench.answer,
        "rules": [rule.model_dump() for rule in bench.answer.rules] if bench.answer else [],
        "method": method,
        "tab": tab,
        "tabs": TABS,
        "beside": BESIDE.get(tab, ()),
        "kept": EggPlan.objects.of(request.kitchen).current().filter(document__method=method)[:40],
        "places": _where(request, method),
        "token": uuid.uuid4(),
        "usual_name": NAMES[method],
        "yolk_words": YOLK_WORDS,
        "is_whole": method in WHOLE,
        "edition": request.POST.get("edition") or request.GET.get("edition", ""),
        "beside_now": True,
        **more,
    }
    if form.is_valid() and bench.answer is not None:
        context["begins_at"] = _begins_at(request, form, bench)
        if method == "emulsion":
            context["scaled"] = _scaled(form)
            context["reduced"] = _reduced(form)
    if context["is_whole"] and bench.answer is not None:
        size = bench.answer.egg
        rx = EGG_PX * size.breadth_mm / max(size.length_mm, 1.0) * 1.25
        context |= {"size": size, "outline": egg_outline(rx, EGG_PX * 1.25), "egg_rx": rx, "egg_ry": EGG_PX * 1.25}
    return context


def _scaled(form: EggForm) -> Any:
    typed = form.cleaned_data
    if not typed.get("covers"):
        return None
    return scaled(typed["covers"], typed["yolks"], typed.get("liquid") or 0.0, typed.get("butter") or 0.0)


def _reduced(form: EggForm) -> str:
    typed = form.cleaned_data
    reduced_from, liquid = typed.get("reduce"), typed.get("liquid")
    if not reduced_from or not liquid or liquid >= reduced_from:
        return ""
    minutes = reduction_min(
        reduced_from, liquid / reduced_from, typed.get("reduce_mm") or 200.0, typed.get("reduce_w") or 1500.0
    )
    return minutes_clock(minutes)


def _begins_at(request: KitchenRequest, form: EggForm, bench: EggBench) -> dt.datetime | None:
    """When to start so that the last step ends at the time wanted; None if no time is wanted."""
    wanted = form.wanted_at
    if wanted is None or not bench.answer.steps:
        return None
    return next_at(request.kitchen, wanted) - dt.timedelta(seconds=max(step.at_s for step in bench.answer.steps))


def bench(request: KitchenRequest, method: str) -> HttpResponse:
    """Show the bench of one method; its state is its address."""
    _form_class(method)
    typed = _typed(method, request.GET) if request.GET else None
    alone = is_fragment(request)
    form, egg_bench, _ = _worked(request, method, typed, beside=not alone)
    context = _context(request, form, egg_bench, beside_now=not (alone and method in WHOLE))
    if alone:
        return fragment(request, "eggs/_bench.html", context, reverse("eggs:bench", args=[method]), typed)
    return render(request, "eggs/bench.html", context)


def aside(request: KitchenRequest, method: str) -> HttpResponse:
    """What changes the time, loaded after the picture."""
    form, egg_bench, _ = _worked(request, method, _typed(method, request.GET))
    return render(request, "eggs/_aside.html", _context(request, form, egg_bench))


def _work_out_first(request: KitchenRequest, method: str) -> None:
    _, _, document = _worked(request, method, _typed(method, request.POST))
    if document:
        settle_steps(document)


@works_out_first(_work_out_first)
@require_POST
def send(request: KitchenRequest, method: str) -> HttpResponse:
    """Send it to the line as a cook with steps. What fails its rule needs its advisory, or pasteurised eggs."""
    form, egg_bench, document = _worked(request, method, _typed(method, request.POST))
    if not document:
        return render(request, "eggs/bench.html", _context(request, form, egg_bench), status=422)
    goes = egg_bench.answer.goes_out
    refused = ""
    if goes == "no":
        refused = "Not for susceptible guests: cook to the rule, or use pasteurised egg."
    elif goes == "advisory" and not form.cleaned_data["advisory"]:
        refused = "This does not meet the rule: tick the consumer advisory first."
    if refused:
        return render(request, "eggs/bench.html", _context(request, form, egg_bench, refused=refused), status=422)
    place = next((e.name for e in _where(request, method) if str(e.pk) == request.POST.get("where")), "")
    cook = start_steps(
        request.kitchen, request.user, form.title or NAMES[method], document, token_of(request.POST.get("token")),
        _begins_at(request, form, egg_bench), place, _medium_c(method, document, egg_bench),
    )  # fmt: skip
    return redirect("line:steps", pk=cook.pk)


def _medium_c(method: str, document: Mapping[str, Any], egg_bench: EggBench) -> float | None:
    match method:
        case "boil" | "steam" | "circulator" | "poach":
            return round(float(egg_bench.answer.curves.water_c[0] if not egg_bench.answer.boils_s else 100.0), 1)
        case "scramble":
            return float(egg_bench.answer.pan_c[0])
        case "omelette":
            return float(document["pan_c"]) if document.get("pan_c") else None
        case "custard":
            return float(document.get("oven_c", 160.0))
    return None


@works_out_first(_work_out_first)
@require_POST
def keep(request: KitchenRequest, method: str) -> HttpResponse:
    """Save the request under its name."""
    form, egg_bench, document = _worked(request, method, _typed(method, request.POST))
    if not document:
        return render(request, "eggs/bench.html", _context(request, form, egg_bench), status=422)
    if not form.title:
        form.add_error("name", "Enter a name first.")
        return render(request, "eggs/bench.html", _context(request, form, egg_bench), status=422)
    document = {k: v for k, v in document.items() if k not in ("standard", "house")}
    there, title = saved_requests.named(EggPlan, request.kitchen, form.title), form.title
    if there is not None:
        url = reverse("eggs:kept", args=[there.pk])
        if meanwhile := saved_requests.meanwhile_of(request, there, document, url):
            context = {**_context(request, form, egg_bench), "meanwhile": meanwhile}
            return render(request, "eggs/bench.html", context, status=409)
        if wants_both(request):
            title = saved_requests.free_name(EggPlan, request.kitchen, title)
    plan = saved_requests.save_request(EggPlan, request.kitchen, request.user, title, document)
    messages.success(request, f"Saved: {plan.name}.")
    return redirect("eggs:kept", pk=plan.pk)


def kept(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Show a saved request on the bench by redirecting to its address."""
    plan = get_object_or_404(EggPlan.objects.of(request.kitchen).current(), pk=pk)
    method = plan.document["method"]
    data = _form_class(method).data_of(plan.document, request.user.units) | {"name": plan.name}
    return redirect(
        address(reverse("eggs:bench", args=[method]), data | {"kept": str(pk), "edition": edition_of(plan.document)})
    )


@require_POST
@chef_required
def put_away(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Archive a saved request, with an undo."""
    plan = get_object_or_404(EggPlan.objects.of(request.kitchen).current(), pk=pk)
    saved_requests.archive(plan)
    messages.success(request, f"Archived: {plan.name}.", extra_tags=reverse("eggs:put-back", args=[plan.pk]))
    return redirect("eggs:bench", method=plan.document["method"])


@require_POST
@chef_required
def put_back(request: KitchenRequest, pk: uuid.UUID) -> HttpResponse:
    """Restore an archived request."""
    plan = get_object_or_404(EggPlan.objects.of(request.kitchen), pk=pk)
    if not saved_requests.restore(plan):
        messages.error(request, f"There is already another “{clean_text(plan.name, 80)}”. Rename it first.")
    return redirect("eggs:bench", method=plan.document["method"])


def equivalents_page(request: KitchenRequest) -> HttpResponse:
    """Show how many hen eggs each kind replaces."""
    rows = []
    for equivalent in equivalents():
        egg = egg_of(equivalent.kind.id, equivalent.mass_g)
        size = next(name for name, mass in equivalent.kind.sizes.items() if mass == equivalent.mass_g)
        rows.append(
            {
                "row": equivalent,
                "size": "" if size == "all" else size,
                "breadth": egg.breadth_mm,
                "length": egg.length_mm,
            }
        )
    return render(request, "eggs/kinds.html", {"rows": rows})
