"""The hands that bringing back asks for, by the second."""

from __future__ import annotations

from ..files.chill import BackIn
from ..files.steps import StepOut
from ..steps import Steps

WARM_UP_S = 600.0  # a bath or an oven comes to its heat; common practice
REST_S = 300.0
PLACES = {"bath": "the bath", "oven": "the oven", "sauce": "the sauce", "steam": "the steamer"}


def back_steps(back: BackIn, setting_c: float, minutes: float, reading_c: float, needs: str) -> list[StepOut]:
    """Set, read the label, lay in, lift, rest or read. `needs`: what the rule for reheating asks, where one applies."""
    steps = Steps()
    place = PLACES[back.where]
    ready = steps.add("Set", f"{place} to {setting_c:.0f} °C", "read it with a probe")
    lay = steps.add(
        "Lay in", "from the cold", "", ready, WARM_UP_S, checks=["its last day", "bag whole, no smell"], span="begin"
    )
    lift = steps.add(
        "Lift", f"at {reading_c:.1f} °C", "read the thickest, middle", lay, 60.0 * minutes, checks=["probe"], span="end"
    )  # fmt: skip
    if back.then == "held":
        steps.add("Hold", "hot", needs, lift, 60.0)
    else:
        steps.add("Serve", "at once", "", lift, REST_S)
    return steps.in_order()
