"""The nitrite limit that applies: the product follows from the cut and the method of salting."""

from __future__ import annotations

from dataclasses import dataclass

from ..files.brine import BrineRequest, Product
from ..food.catalogue import Cut, cut
from .rows import Limits

BY_SCHOOL: dict[str, Product] = {
    "equilibrium": "immersion", "gradient": "immersion", "dry": "dry", "injected": "pumped",
}  # fmt: skip
BACON: dict[str, Product] = {"immersion": "bacon-immersion", "dry": "bacon-dry", "pumped": "bacon-pumped"}
BACON_CUTS = frozenset({"pork/belly", "pork/pressed-belly"})  # bacon or something else: only the cook knows
GROUND = frozenset({"minced", "terrine"})
SEAFOOD = frozenset({"fish", "shellfish", "molluscs"})


@dataclass(frozen=True)
class Ruling:
    """The product a cure is judged as and its limit, ppm; without either nothing is allowed, and `why` gives the
    reason.

    `least`: a lower limit, below which it is not allowed either.
    """

    product: Product | None
    limit_ppm: float | None
    why: str = ""
    least_ppm: float | None = None


def _is_ground(cut_entry: Cut) -> bool:
    return cut_entry.category == "minced" or "minced" in cut_entry.tissue or cut_entry.id.split("/")[1] in GROUND


def _of_fish(cut_entry: Cut | None, limits: Limits) -> Ruling:
    """The rule for fish: only species that a standard names, smoked and cured."""
    if cut_entry is None or cut_entry.species not in limits.fish:
        some = " and ".join(sorted(limits.fish))
        only = f"only for {some}, smoked and cured" if some else "for no fish or shellfish"
        what = cut_entry.name if cut_entry is not None else "This fish"
        return Ruling(None, None, f"{what}: {limits.authority} allows nitrite {only} ({limits.fish_section}).")
    least, most = limits.fish[cut_entry.species]
    return Ruling("fish-smoked", most, least_ppm=least or None)


def ruling_of(request: BrineRequest, limits: Limits) -> Ruling:
    """The limit for a request: the stricter of its product's and its process's."""
    cut_entry = cut(request.cut) if request.cut is not None else None
    if (cut_entry is not None and cut_entry.category in SEAFOOD) or (
        cut_entry is None and request.flesh in ("fish", "shellfish")
    ):
        return _of_fish(cut_entry, limits)
    by_process = BY_SCHOOL[request.school]
    if cut_entry is not None and _is_ground(cut_entry):
        by_process = "comminuted"
    chosen = request.product
    if chosen == "fish-smoked":
        return Ruling(None, None, "The product is smoked fish, but this cut is not fish: choose another product.")
    if chosen is None and cut_entry is not None and cut_entry.id in BACON_CUTS and by_process != "comminuted":
        return Ruling(None, None, f"{cut_entry.name}: choose the product first, bacon or not. Their limits differ.")
    product = chosen or by_process
    processed = BACON.get(by_process, by_process) if product.startswith("bacon") else by_process
    strictest = min((product, processed), key=lambda one: limits.limits[one])
    return Ruling(strictest, limits.limits[strictest])
