"""What a browser would post for a plan on the bench."""

from __future__ import annotations

from typing import Any

from ember.quantities import Units
from kitchen.plans.bench import Bench

UNITS = Units()


def posted(document: dict[str, Any], units: Units = UNITS) -> dict[str, str]:
    """What the bench would post for a plan."""
    bench = Bench.of_document(document, units)
    found: dict[str, str] = {"was_cut": bench.cut.id}
    for form in bench.forms():
        for name in form.fields:
            value = form[name].value()
            if value is not None and value is not False:
                found[form.add_prefix(name)] = str(value)
    for form in (*bench.stages, *bench.preps):
        found[f"{form.prefix}-kind"] = form.kind
    found |= {"out": bench.out_text, "was_out": bench.out_text}
    return found
