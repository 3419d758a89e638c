"""Doneness calls and drills of the demo's people: made up, each sense with a bias of its own."""

from __future__ import annotations

import datetime as dt

import numpy as np

from kitchen.accounts.models import Kitchen, Person
from kitchen.practice import drill_actions
from kitchen.practice.call_actions import share
from kitchen.practice.models import Call

SEED = 88
# Of each person: sense, calls, habit (K too high) at first and now, spread K.
HABITS = {
    "tobin": (("press", 22, 3.4, 1.2, 2.1), ("pin", 27, -0.9, -0.2, 1.1), ("juices", 13, 1.4, 1.1, 2.8),
              ("cut", 6, 0.2, 0.2, 0.8)),
    "pell": (("press", 9, -2.6, -1.8, 2.4), ("pin", 5, 1.5, 1.5, 2.0)),
    "runa": (("press", 14, 0.9, 0.5, 1.3), ("cut", 8, 0.1, 0.1, 0.6)),
}  # fmt: skip
PIECES = (
    ("Lamb rump, kelp salt", "lamb/rump", "medium", 57.5),
    ("Bosun's strip, smoked butter", "beef/strip-loin", "medium-rare", 54.0),
    ("Roe loin, juniper", "venison/loin", "rare", 50.0),
)
DAYS = 40.0
# Person, drill, level, number, what they did.
DRILLS = (
    ("tobin", "pan", 1, 7, 7 * "wait:60 turn " + "wait:60 rest wait:300 cut"),
    ("tobin", "scramble", 1, 3, "wait:60 wait:60 off"),
    ("pell", "pan", 1, 12, 5 * "wait:60 turn " + "wait:60 rest wait:300 cut"),
    ("runa", "pan", 2, 5, 6 * "wait:60 turn " + "wait:60 rest wait:300 cut"),
)


def add_practice(kitchen: Kitchen, people: dict[str, Person]) -> None:
    """Create calls over the last weeks, drills, and one person who shares their practice."""
    random = np.random.default_rng(SEED)
    for username, habits in HABITS.items():
        rows = []
        for sense, number, first, now, spread in habits:
            for i in range(number):
                name, cut, wanted, core = PIECES[int(random.integers(len(PIECES)))]
                read = core + float(random.normal(0, 2.5))
                off = first + (now - first) * i / max(number - 1, 1) + float(random.normal(0, spread))
                at = kitchen.now() - dt.timedelta(days=DAYS * (1 - (i + float(random.uniform(0, 0.8))) / number))
                rows.append(Call(
                    kitchen=kitchen, person=people[username], name=name, cut=cut, wanted=wanted, sense=sense,
                    called_c=round(read + off), at=at, read_c=round(read, 1), read_at=at,
                ))  # fmt: skip
        Call.objects.bulk_create(sorted(rows, key=lambda made_call: made_call.at))
    share(kitchen, people["pell"], True)
    for username, kind, level, seed, did in DRILLS:
        drill = drill_actions.begin(kitchen, people[username], kind, level, seed)
        for what in did.split():
            drill = drill_actions.act(drill, what)
