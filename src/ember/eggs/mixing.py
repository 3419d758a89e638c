"""Mixing hot and cold: tempering yolks with cream, stirred custards, and egg-bound pasta.

T = Σ m c T / Σ m c, without losses to the air: a pour takes seconds.
"""

from __future__ import annotations

from collections.abc import Sequence

from .sauce_data import sauce_data

CREAM_J_GK, SUGAR_J_GK, YOLK_J_GK = 3.6, 1.25, 3.12  # USDA tables, Choi & Okos; from memory


def mixed_c(parts: Sequence[tuple[float, float, float]]) -> float:
    """Temperature of a mix of (grams, J/gK, °C).

    >>> round(mixed_c([(100.0, 4.18, 90.0), (100.0, 4.18, 10.0)]), 1)
    50.0
    """
    heat = sum(grams * capacity for grams, capacity, _ in parts)
    return sum(grams * capacity * celsius for grams, capacity, celsius in parts) / heat


def pours_c(
    yolks_g: float, sugar_g: float, yolk_c: float, cream_g: float, cream_c: float, pours: int, first: float = 0.5
) -> list[tuple[float, float]]:
    """Grams and mixed temperature, °C, after each pour of hot cream into yolks with sugar.

    The first pour is the share `first` of an even one, so that the yolks warm gently.
    """
    each = cream_g / pours
    grams = [each] * pours
    if pours > 1:
        grams[0] = first * each
        grams[-1] += (1.0 - first) * each
    celsius, after_each_c, there = yolk_c, [], yolks_g * YOLK_J_GK + sugar_g * SUGAR_J_GK
    for pour in grams:
        heat = pour * CREAM_J_GK
        celsius = (there * celsius + heat * cream_c) / (there + heat)
        there += heat
        after_each_c.append((pour, celsius))
    return after_each_c


def most_first_pour_g(yolks_g: float, sugar_g: float, yolk_c: float, cream_c: float) -> float:
    """The most hot cream at once that keeps the yolks below their setting point, g."""
    limit = sauce_data().stirred.shock_c
    there = yolks_g * YOLK_J_GK + sugar_g * SUGAR_J_GK
    if cream_c <= limit:
        return float("inf")
    return there * (limit - yolk_c) / (CREAM_J_GK * (cream_c - limit))


def stirred_state(to_c: float, minutes: float, starch_g: float, litres: float) -> str:
    """State of a stirred custard by its end temperature: thin, coats the spoon, or curdled."""
    stirred = sauce_data().stirred
    holds = litres > 0 and starch_g / litres >= stirred.starch_holds_g_l
    if to_c > stirred.curdles_c and not holds:
        return "curdled"
    # Ten minutes at 75 °C coat a spoon as a moment at 82 does (common practice).
    slower = stirred.nappe_c[0] - (6.0 if minutes >= 10.0 else 3.0 if minutes >= 3.0 else 0.0)
    return "coats the spoon" if to_c >= slower else "thin"


def pasta_c(parts: dict[str, tuple[float, float]], bowl_j_k: float = 0.0, bowl_c: float = 20.0) -> float:
    """Temperature of pasta, fat, egg, cheese and water together: `{name: (grams, °C)}`."""
    capacities = sauce_data().pasta.j_gk
    rows = [(grams, capacities[name], celsius) for name, (grams, celsius) in parts.items() if grams > 0]
    if bowl_j_k > 0:
        rows.append((bowl_j_k, 1.0, bowl_c))
    return mixed_c(rows)


def pasta_for(parts: dict[str, tuple[float, float]], wanted_c: float, bowl_j_k: float, bowl_c: float) -> float:
    """Temperature of the pasta for a mix of `wanted_c`, °C."""
    grams = parts["pasta"][0]
    low = pasta_c({**parts, "pasta": (grams, 0.0)}, bowl_j_k, bowl_c)
    high = pasta_c({**parts, "pasta": (grams, 100.0)}, bowl_j_k, bowl_c)
    return 100.0 * (wanted_c - low) / (high - low)


def pasta_state(celsius: float, starch: bool) -> str:
    """State of egg-bound pasta by its mixing temperature."""
    pasta = sauce_data().pasta
    if celsius < pasta.thickens_c:
        return "thin"
    return "curdled" if celsius > pasta.curdles_c + (pasta.starch_lifts_k if starch else 0.0) else "thick"
