"""Choices on the bench: the cost of small ones, methods, what fits the time, and comparisons."""

from __future__ import annotations

from contextlib import suppress
from typing import Any

from django.http import HttpResponse
from django.shortcuts import render
from django.views.decorators.http import require_POST

from ember.errors import BadInput, EmberError
from ember.evaluate import evaluate, target_of
from ember.files.plan import Plan as CorePlan
from ember.food.geometry import body_size
from ember.heat.problem import density_of
from ember.heat.simulate import simulate_roughly
from ember.methods.apply import applied
from ember.methods.library import Method, methods, suitable
from ember.quantities import parse_minutes
from ember.solve.fit import fit, with_method
from ember.solve.log_ends import with_log_ends
from ember.solve.oven_shape import effects
from ember.solve.prices import prices
from kitchen.accounts.once import computes
from kitchen.drawings.compare_chart import compare_chart
from kitchen.web import KitchenRequest

from .access import kept_of, posted_plan
from .bench import Bench
from .chain import changed
from .compare import Column, column_of, rows_of
from .stage_kinds import STAGE_NAMES
from .words import fit_lines, oven_lines, price_lines

MOST_COMPARED, LEAST_COMPARED = 4, 2
AS_IT_STANDS = "now"


def _posted(request: KitchenRequest, depth_map: bool = False) -> Bench:
    """The bench as posted, with its result if there is one."""
    posted_bench = Bench.of_post(changed(request.POST, request.user.units), request.user.units)
    posted_bench.work_out(kept_of(request, posted_plan(request)), depth_map)
    return posted_bench


@computes
@require_POST
def price_list(request: KitchenRequest) -> HttpResponse:
    """Costs of small choices, and the oven's effect on the time."""
    posted_bench = _posted(request)
    context: dict[str, Any] = {"lines": [], "oven": []}
    if posted_bench.core is not None and posted_bench.result is not None:
        units = request.user.units
        with suppress(EmberError):  # on the rough grid it may just not come to its end
            context["lines"] = price_lines(posted_bench.core, prices(posted_bench.core), units)
            context["oven"] = oven_lines(posted_bench.core.stages, effects(posted_bench.core), units)
    return render(request, "plans/_prices.html", context)


def _methods_for(core: CorePlan, bench: Bench) -> list[Method]:
    target = target_of(core)
    size = body_size(core.piece, bench.cut, density_of(core)).size_mm
    return suitable(bench.cut, size, target.aim_c if target else 60.0)


def _method_plan(core: CorePlan, method: Method) -> CorePlan:
    """The plan by another method. Raises EmberError if it cannot be cooked that way."""
    target = target_of(core)
    return with_method(core, applied(method, core.piece.cut, target.aim_c if target else 60.0))


@computes
@require_POST
def method_list(request: KitchenRequest) -> HttpResponse:
    """The methods for this piece, with the duration of each."""
    bench = _posted(request)
    rows: list[dict[str, Any]] = []
    if bench.core is not None and bench.result is not None:
        for method in _methods_for(bench.core, bench):
            try:
                plan = _method_plan(bench.core, method)
                run = simulate_roughly(with_log_ends(plan))
            except EmberError:
                continue
            chain = [{"kind": stage.kind, "name": STAGE_NAMES[stage.kind]} for stage in plan.stages]
            rows.append({"method": method, "total_s": run.end_s, "stages": chain})
    return render(request, "plans/_methods.html", {"rows": rows, "bench": bench})


@computes
@require_POST
def fit_list(request: KitchenRequest) -> HttpResponse:
    """Ways to be done in the minutes available."""
    bench = _posted(request)
    typed = request.POST.get("fit_minutes", "").strip()
    context: dict[str, Any] = {"bench": bench, "typed": typed, "problem": "", "lines": []}
    if bench.core is None or bench.result is None:
        context["problem"] = "Fix the highlighted fields on the plan first."
    elif typed:
        try:
            minutes = parse_minutes(typed)
            if not 1 <= minutes <= 14 * 1440:
                raise BadInput("Enter 1 min to 14 days.")
            ways = fit(bench.core, minutes * 60.0)
            context["lines"] = fit_lines(bench.core, ways, minutes * 60.0, request.user.units)
        except EmberError as error:
            context["problem"] = error.message
    if bench.result is not None:
        context["takes_s"] = bench.result.stages[-1].end_s
    return render(request, "plans/_fit.html", context)


@computes
@require_POST
def compare(request: KitchenRequest) -> HttpResponse:
    """Compare two to four methods for the piece on the bench."""
    bench = _posted(request, depth_map=True)
    wanted = [AS_IT_STANDS, *(key for key in request.POST.getlist("method") if key in methods())]
    columns: list[Column] = []
    lost: list[str] = []
    if bench.core is not None and bench.result is not None:
        if len(wanted) < LEAST_COMPARED:
            wanted += [method.id for method in _methods_for(bench.core, bench)[: MOST_COMPARED - 1]]
        for key in dict.fromkeys(wanted):
            if len(columns) == MOST_COMPARED:
                break
            if key == AS_IT_STANDS:
                columns.append(column_of(key, "As planned", "", bench.core, bench.result, bench.cut))
                continue
            method = methods()[key]
            try:
                plan = _method_plan(bench.core, method).model_copy(update={"depth_map": True})
                columns.append(column_of(key, method.name, method.says, plan, evaluate(plan), bench.cut))
            except EmberError:
                lost.append(method.name)
    context = {
        "bench": bench,
        "plan": posted_plan(request),
        "columns": columns,
        "chart": compare_chart([column.result for column in columns]) if columns else None,
        "rows": rows_of(columns, request.user.units),
        "lost": lost,
        "posted": [(k, v) for k, v in request.POST.items() if k not in ("do", "method", "csrfmiddlewaretoken")],
    }
    return render(request, "plans/compare.html", context)
