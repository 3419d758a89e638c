"""Ingoing sodium nitrite, by school: one formula each, as ppm of green meat.

USDA FSIS, Processing Inspectors' Calculations Handbook (Directive 7620.3, 1995), from memory. Equilibrium (method 2):
nitrite over meat and water together. Pumped, or immersed with a pick-up (method 1): the brine's nitrite fraction times
pick-up. Dry and comminuted: nitrite over meat. Method 1 is 1 + P times method 2 when all brine is taken up: they are
not to be mixed.
"""

from __future__ import annotations

KNO2_OVER_NANO2 = 1.233
NANO2_OVER_ION = 1.5
PPM = 1e6


def dry_ppm(cure_g: float, nitrite_share: float, meat_g: float) -> float:
    """Rubbed in, or mixed into mince.

    >>> round(dry_ppm(2.5, 0.0625, 1000.0), 2)  # a level teaspoon of 6.25 % cure in 5 lb: a quarter ounce in 100 lb
    156.25
    """
    return PPM * cure_g * nitrite_share / meat_g


def equilibrium_ppm(cure_g: float, nitrite_share: float, meat_g: float, water_g: float) -> float:
    """Meat and water share it until they are even.

    >>> round(equilibrium_ppm(24.0, 0.005, 1000.0, 1000.0), 1)
    60.0
    """
    return PPM * cure_g * nitrite_share / (meat_g + water_g)


def pickup_ppm(cure_g: float, nitrite_share: float, brine_g: float, pickup_share: float) -> float:
    """Pumped, or immersed for a time, by how much brine the meat takes up.

    >>> round(pickup_ppm(2.0, 1.0, 1000.0, 0.10), 1)  # 2 lb of nitrite in 100 gal of pickle of 10 lb, a tenth pumped
    200.0
    """
    return PPM * cure_g * nitrite_share / brine_g * pickup_share
