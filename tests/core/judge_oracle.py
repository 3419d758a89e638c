"""A second judge, for the tests only: the standards' texts as plain loops over samples. It shares no code with us.

Written from the same texts as the data files (US FDA Food Code 2022; USDA FSIS Appendix A and B 2021; FSA Safer Food,
Better Business and ACMSF 2007; Codex CXC 39-1993 and Reg (EC) 853/2004; FSANZ 3.2.2), from memory. A limit
printed in °F and °C is met at either. What the texts leave open is decided in docs/standards.md.
"""

from __future__ import annotations

import math
from collections import deque
from dataclasses import dataclass, field
from itertools import pairwise

US, FSIS, UK, CODEX, ANZ = "us-food-code-2022", "usda-fsis-appendix-a-2021", "uk-fsa", "codex-generic", "anz"
ALL = (US, FSIS, UK, CODEX, ANZ)


def f(fahrenheit, printed=None):
    """The more lenient least of a °F limit and its printed °C."""
    exact = (fahrenheit - 32) * 5 / 9
    return min(exact, round(exact, 1) if printed is None else printed)


def fmost(fahrenheit, printed=None):
    """The more lenient most."""
    exact = (fahrenheit - 32) * 5 / 9
    return max(exact, round(exact, 1) if printed is None else printed)


ROAST = [
    (130, 6720),
    (131, 5340),
    (133, 3360),
    (135, 2160),
    (136, 1680),
    (138, 1080),
    (140, 720),
    (142, 480),
    (144, 300),
    (145, 240),
    (147, 134),
    (149, 85),
    (151, 54),
    (153, 34),
    (155, 22),
    (157, 14),
    (158, 0),
]
MEAT = [
    (130, 112),
    (131, 89),
    (132, 71),
    (133, 56),
    (134, 45),
    (135, 36),
    (136, 28),
    (137, 23),
    (138, 18),
    (139, 15),
    (140, 12),
    (141, 9),
    (142, 8),
    (143, 6),
    (144, 5),
    (145, 4),
]
MEAT = [(at, 60 * m) for at, m in MEAT] + [
    (146, 169),
    (147, 134),
    (148, 107),
    (149, 85),
    (150, 67),
    (151, 54),
    (152, 43),
    (153, 34),
    (154, 27),
    (155, 22),
    (156, 17),
    (157, 14),
    (158, 0),
]
CHICKEN_5 = [
    (136, 68.4),
    (137, 54.3),
    (138, 43.2),
    (139, 34.4),
    (140, 27.5),
    (141, 22),
    (142, 17.7),
    (143, 14.3),
    (144, 11.5),
    (145, 9.2),
    (146, 7.4),
    (147, 5.9),
    (148, 4.7),
    (149, 3.7),
    (150, 2.9),
]
# Above 150 °F the 5 % column was not recalled: the stricter 12 % one.
CHICKEN_5 = [(at, 60 * m) for at, m in CHICKEN_5] + [
    (152, 138),
    (153, 96),
    (154, 66),
    (155, 54.4),
    (156, 43),
    (157, 34),
    (158, 26.9),
    (159, 21.3),
    (160, 16.9),
    (161, 13.3),
    (162, 10.5),
    (165, 0),
]
TURKEY_12 = [
    (136, 70.8),
    (137, 58.5),
    (138, 48.5),
    (139, 40.4),
    (140, 33.7),
    (141, 28.2),
    (142, 23.7),
    (143, 19.8),
    (144, 16.6),
    (145, 13.8),
    (146, 11.5),
    (147, 9.4),
    (148, 7.7),
    (149, 6.2),
    (150, 4.9),
    (151, 3.8),
    (152, 2.8),
    (153, 2.1),
    (154, 1.6),
    (155, 1.3),
    (156, 1.0),
]
TURKEY_12 = [(at, 60 * m) for at, m in TURKEY_12] + [
    (157, 50.4),
    (158, 40.9),
    (159, 33.2),
    (160, 26.9),
    (161, 21.9),
    (162, 17.7),
    (163, 14.4),
    (164, 11.7),
    (165, 0),
]
UK_TABLE = [(60, 2700), (65, 600), (70, 120), (75, 30), (80, 6)]


def table_f(rows):
    return [(f(at), s) for at, s in rows]


WHOLE_US = ("hold", [(f(145, 63), 15)])
GROUND_US = ("hold", [(f(145, 63), 180), (f(150, 66), 60), (f(155, 68), 17), (f(158, 70), 0)])
POULTRY_US = ("hold", [(f(165, 74), 0)])
ROAST_US = ("table", table_f(ROAST), 6.5)
THOROUGH_C = ("hold", [(70, 120), (75, 0)])
WHOLE_C = ("hold", [(63, 15)])

# What a piece of each kind is asked, by standard: any of the rules will do.
COOK = {
    US: {
        # What is enough for minced meat is enough for whole meat too.
        "meat": [WHOLE_US, GROUND_US], "steak": [WHOLE_US, GROUND_US], "fish": [WHOLE_US, GROUND_US],
        "roast": [ROAST_US, WHOLE_US, GROUND_US], "minced": [GROUND_US], "pierced": [GROUND_US],
        "pierced-roast": [ROAST_US, GROUND_US], "chicken": [POULTRY_US], "turkey": [POULTRY_US],
        "duck": [POULTRY_US], "game": [POULTRY_US], "stuffed": [POULTRY_US],
    },
    FSIS: {
        "meat": [("table", table_f(MEAT), 6.5)], "fish": [("hold", [(f(145), 0)])],
        "minced": [("table", table_f(MEAT), 6.5), ("hold", [(f(160), 0)])],
        "chicken": [("table", table_f(CHICKEN_5), 7.0), ("hold", [(f(165), 0)])],
        "turkey": [("table", table_f(TURKEY_12), 7.0), ("hold", [(f(165), 0)])],
        "duck": [("hold", [(f(165), 0)])], "game": [("hold", [(f(165), 0)])], "stuffed": [("hold", [(f(165), 0)])],
    },
    UK: {"": [("table", UK_TABLE, 6.0)]},
    CODEX: {"": [THOROUGH_C], "meat": [WHOLE_C, THOROUGH_C], "fish": [("hold", [(60, 60)]), THOROUGH_C]},
    ANZ: {"": [THOROUGH_C], "meat": [WHOLE_C, THOROUGH_C], "fish": [WHOLE_C, THOROUGH_C]},
}  # fmt: skip
ADVISED = {"meat", "steak", "roast", "minced", "pierced", "pierced-roast", "fish"}  # US 3-401.11(D)
COME_UP = {FSIS: (10.0, f(130), 6.0), ANZ: (5.0, 54.5, 6.0)}
COOL = {  # (from, to, hours, None: no time of its own)
    US: [(f(135, 57), fmost(70, 21), 2), (f(135, 57), 5.0, 6)], FSIS: [(f(130), fmost(80), 1.5), (f(80), fmost(40), 5)],
    UK: [(None, 8, 1.5)], CODEX: [(60, 10, 2), (10, 4, None)], ANZ: [(60, 21, 2), (21, 5, 4)],
}  # fmt: skip
REHEAT = {  # to, held s, out of the cold at, within h
    US: (f(165, 74), 15, 5.0, 2), FSIS: (f(165), 15, None, None), UK: (70, 120, None, None), CODEX: (75, 15, 10, 1),
    ANZ: (60, 15, None, None),
}  # fmt: skip
HOT = {US: (f(135, 57), 0, 4), FSIS: (60, 0, 2), UK: (63, 2, 2), CODEX: (60, 0, 2), ANZ: (60, 0, 4)}
HOT_ROAST = {**HOT, US: (54.0, 0, 4)}
COLD = {US: (5, 0, 4), FSIS: (fmost(40), 0, 2), UK: (8, 4, 4), CODEX: (4, 0, 2), ANZ: (5, 0, 4)}
CLOCK = {US: "us", FSIS: 2, UK: 2, ANZ: "anz"}
FREEZE = {  # at, hours, once it was at
    US: [(-20, 168, None), (-35, 15, None), (-20, 24, -35)], UK: [(-20, 24, None), (-35, 15, None)],
    CODEX: [(-20, 24, None), (-35, 15, None)],
}  # fmt: skip
CUTS = {  # what the cut is, in our own words, and its animal
    "beef/strip-loin": ("steak", "beef"), "beef/rump-roast": ("roast", "beef"), "pork/chop": ("meat", "pork"),
    "pork/loin": ("roast", "pork"), "lamb/leg-boneless": ("roast", "lamb"), "lamb/rump": ("meat", "lamb"),
    "beef/mince": ("minced", "beef"), "chicken/breast": ("chicken", "bird"), "turkey/breast": ("turkey", "bird"),
    "duck/breast": ("duck", "bird"), "cod/fillet": ("fish", "fish"), "venison/loin": ("meat", "game"),
}  # fmt: skip
WARM_COUNTS = {"cook", "reheat", "hold-hot"}
FAST = {"cook": 20 / 60, "reheat": 20 / 60}
SLOW = 5 / 60


@dataclass
class Answer:
    """What the text says; `near`: so close to its limit that one-second samples cannot decide."""

    state: str
    near: bool = False
    margin: float | None = None
    unit: str = ""
    notes: list[str] = field(default_factory=list)


def kind_of(cut, history, origin, treated):
    kind, animal = CUTS[cut]
    if "stuffed" in history:
        return "stuffed"
    if animal == "game" and origin == "wild":
        return "game"
    if animal in ("bird", "fish"):
        return kind
    if "minced" in history or kind == "minced":
        return "minced"
    if treated or {"injected", "pierced", "tenderised"} & set(history):
        return "pierced-roast" if kind == "roast" else "pierced"
    return kind


def asked_of(standard, kind):
    table = COOK[standard]
    if kind in table:
        return table[kind]
    if standard == FSIS:
        return table["meat"]
    if kind in ("steak", "roast") and "meat" in table:
        return table["meat"]
    return table[""]


def without_strays(readings, phase, by_hand=()):
    """One wire reading that leaves both neighbours by more than food can, and comes back, is held to what it could."""
    bound = FAST.get(phase, SLOW)
    clamped = [list(reading) for reading in readings]
    sides = (1, -1) if phase in WARM_COUNTS else (-1, 1)
    for side in sides:
        for many in (3, 2, 1) if side == sides[0] else (1,):
            was = [list(reading) for reading in clamped]

            def stray(rows, i, many=many, side=side):
                """Whether so many readings after `i` all leave both their neighbours, in these rows."""
                (t0, a), (t1, b) = rows[i], rows[i + many + 1]
                return all(
                    side * (c - a) > bound * (t - t0) + 1e-9 and side * (c - b) > bound * (t1 - t) + 1e-9
                    for t, c in rows[i + 1 : i + 1 + many]
                )

            for i in range(len(clamped) - many - 1):
                (t0, a), (t1, b) = clamped[i], clamped[i + many + 1]
                inner = clamped[i + 1 : i + 1 + many]
                most = [min(side * a + bound * (t - t0), side * b + bound * (t1 - t)) for t, _ in inner]
                # As it was read, and still so once the reading before it was held back.
                if stray(was, i) and stray(clamped, i) and not any(t in by_hand for t, _ in inner):
                    for reading, level in zip(inner, most, strict=True):
                        reading[1] = side * level
    return [tuple(reading) for reading in clamped]


def sampled(readings, max_gap_s, worst, step):
    """The record each `step` s; a gap at the worst of its ends."""
    found = []
    for (t0, a), (t1, b) in pairwise(readings):
        gap = max_gap_s is not None and t1 - t0 > max_gap_s
        t = t0
        while t < t1 - 1e-9:
            inside = worst(a, b) if gap and t > t0 else a + (b - a) * (t - t0) / (t1 - t0)
            found.append((t, inside))
            if gap and t == t0:
                found.append((t + 1e-9, worst(a, b)))
            t += step
        if gap:
            found.append((t1 - 1e-9, worst(a, b)))
    found.append(readings[-1])
    return found


def longest_hold(samples, level):
    """The longest time at a level or above it, s; -1 when never."""
    best, begin = -1.0, None
    for t, c in samples:
        if c >= level - 1e-6:
            begin = t if begin is None else begin
            best = max(best, t - begin)
        else:
            begin = None
    return best


def best_held(samples, seconds):
    """The highest level held for so long."""
    if seconds == 0:
        return max(c for _, c in samples)
    best, window = -math.inf, deque()
    start = 0
    for i, (t, c) in enumerate(samples):
        while window and samples[window[-1]][1] >= c:
            window.pop()
        window.append(i)
        while t - samples[start][0] > seconds + 1e-6:
            start += 1
        while window[0] < start:
            window.popleft()
        if t - samples[start][0] >= seconds - 1e-6:
            best = max(best, samples[window[0]][1])
    return best


def share_of(rows, samples):
    """How many times over a table's time was kept, midpoint by midpoint."""
    timed = [(c, s) for c, s in rows if s > 0]
    total = 0.0
    for (t0, a), (t1, b) in pairwise(samples):
        c = 0.5 * (a + b)
        if c < timed[0][0] - 1e-6:
            continue
        needed = timed[-1][1]
        for (c0, s0), (c1, s1) in pairwise(timed):
            if c < c1:
                at = max(c - c0, 0.0) / (c1 - c0)
                needed = s0 * (s1 / s0) ** at
                break
        total += (t1 - t0) / needed
    at_once = [c for c, s in rows if s == 0]
    touched = bool(at_once) and max(c for _, c in samples) >= at_once[0] - 1e-6
    return max(total, 1.0) if touched else total


def judge_cook(request, readings, gap):
    standard = request["standard"]
    piece = request["piece"]
    kind = kind_of(
        piece["cut"], piece.get("history", []), piece.get("origin", "farmed"), piece.get("treated", False)
    )  # fmt: skip
    samples = sampled(readings, gap, min, 1)
    met = near = False
    for rule in asked_of(standard, kind):
        if rule[0] == "table":
            share = share_of(rule[1], samples)
            met |= share >= 1 - 1e-9
            near |= abs(share - 1) < 0.01 and share != 1.0
        else:
            for level, seconds in rule[1]:
                spent = longest_hold(samples, level)
                met |= spent >= seconds - 1e-6 and spent >= 0
                near |= seconds > 0 and abs(spent - seconds) <= 2.0 and spent != seconds
                near |= spent < 0 and seconds > 0 and max(c for _, c in samples) > level - 0.05
                near |= spent < seconds - 2.0 and longest_hold(samples, level - 0.02) >= seconds - 2.0
    if met and standard in COME_UP:
        low, high, hours = COME_UP[standard]
        spent, warm = 0.0, sampled(readings, gap, max, 1)
        until = next((t for t, c in samples if c >= high - 1e-6), readings[-1][0])
        for (t0, a), (t1, b) in pairwise(warm):
            if t1 <= until + 1e-6 and 0.5 * (a + b) > low:
                spent += t1 - t0
        near |= abs(spent - 3600 * hours) < 5
        if spent > 3600 * hours:
            return Answer("not-met", near)
    if met:
        return Answer("met", near)
    advised = request.get("advisory") and request.get("guests") != "susceptible" and standard == US and kind in ADVISED
    return Answer("advisory" if advised else "not-met", near)


def judge_cool(request, readings, gap):
    cold, warm = sampled(readings, gap, min, 1), sampled(readings, gap, max, 1)
    worst, near = math.inf, False
    for start, end, hours in COOL[request["standard"]]:
        begins = readings[0][0] if start is None else next((t for t, c in cold if c <= start + 1e-6), None)
        over = [t for t, c in warm if c > end + 1e-6]
        if begins is None:
            worst = min(worst, -0.1)
            continue
        ends = None if warm[-1][1] > end + 1e-6 else max(over[-1] if over else begins, begins)
        spent = ((readings[-1][0] if ends is None else ends) - begins) / 60
        spare = math.inf if hours is None else 60 * hours - spent
        worst = min(worst, min(spare, -0.1) if ends is None else spare)
        near |= abs(spare) < 0.1
    return Answer("met" if worst >= 0 else "not-met", near, worst, "min")


def judge_reheat(request, readings, gap):
    to, seconds, out_at, hours = REHEAT[request["standard"]]
    samples, warm = sampled(readings, gap, min, 1), sampled(readings, gap, max, 1)
    spent = longest_hold(samples, to)
    near = (abs(spent - seconds) <= 2 and spent != seconds) or (spent < 0 and max(c for _, c in samples) > to - 0.05)
    near |= spent < seconds - 2.0 and longest_hold(samples, to - 0.02) >= seconds - 2.0
    if spent < seconds - 1e-6:
        return Answer("not-met", near)
    if hours is None:
        return Answer("met", near)
    begin = arrives = None
    for t, c in samples:
        if c >= to - 1e-6:
            begin = t if begin is None else begin
            if t - begin >= seconds - 1e-6:
                arrives = begin
                break
        else:
            near |= begin is not None and abs(t - begin - seconds) <= 2
            begin = None
    leaves = next((t for t, c in warm if c > out_at + 1e-6), readings[0][0])
    if leaves != readings[0][0]:
        leaves -= 1
    used = (arrives - leaves) / 3600
    return Answer("met" if used <= hours else "not-met", near or abs(used - hours) < 0.002, 60 * (hours - used), "min")


def judge_hold(request, readings, gap, hot):
    roast = kind_of(
        request["piece"]["cut"], request["piece"].get("history", []), "farmed", request["piece"].get("treated", False)
    )  # fmt: skip
    table = (HOT_ROAST if roast in ("roast", "pierced-roast") else HOT) if hot else COLD
    limit, allowed, unread = table[request["standard"]]
    if gap is not None and any(b - a > max(3600 * unread, gap) for (a, _), (b, _) in pairwise(readings)):
        return Answer("not-met")
    samples = sampled(readings, gap, min if hot else max, 1)
    outside, periods, was = 0.0, 0, False
    for (t0, a), (t1, b) in pairwise(samples):
        c = 0.5 * (a + b)
        out = c < limit - 1e-6 if hot else c > limit + 1e-6
        outside += (t1 - t0) if out else 0.0
    for _, c in samples:
        out = c < limit - 1e-6 if hot else c > limit + 1e-6
        periods += out and not was
        was = out
    if not periods:
        return Answer("met")
    near = abs(outside - 3600 * allowed) < 5
    return Answer("met" if allowed and periods == 1 and outside <= 3600 * allowed else "not-met", near)


def judge_clock(request, readings, gap):
    rule = CLOCK[request["standard"]]
    whole, first = readings[-1][0] - readings[0][0], readings[0][1]
    if rule == "anz":
        cold, warm = sampled(readings, gap, min, 1), sampled(readings, gap, max, 1)
        inside = 0.0
        for (t0, a), (t1, b), (_, p), (_, q) in zip(cold, cold[1:], warm, warm[1:], strict=False):
            inside += (t1 - t0) * (0.5 * (a + b) < 60 - 1e-6 and 0.5 * (p + q) > 5 + 1e-6)
        return Answer("met" if inside <= 4 * 3600 else "not-met", abs(inside - 4 * 3600) < 5)
    if rule == "us":
        if first > 5 + 1e-6 and first < f(135, 57) - 1e-6:
            return Answer("not-met")
        cool = first <= 5 + 1e-6 and max(c for _, c in readings) <= fmost(70, 21) + 1e-6
        rule = 6 if cool else 4
    return Answer("met" if whole <= 3600 * rule + 1e-3 else "not-met")


def judge_freeze(request, readings, gap):
    met = near = False
    samples = sampled(readings, gap, max, 60)
    for at, hours, after in FREEZE[request["standard"]]:
        part = samples
        if after is not None:
            solid = [i for i, (_, c) in enumerate(samples) if c <= after + 1e-6]
            part = samples[solid[0] :] if solid else samples[-1:]
            near |= not solid and min(c for _, c in samples) < after + 0.1
        spent = longest_hold([(t, -c) for t, c in part], -at)
        met |= spent >= 3600 * hours - 1e-6
        near |= abs(spent - 3600 * hours) < 130 and spent != 3600 * hours
    return Answer("met" if met else "not-met", near)


def oracle(request):
    """The answer to a judge request."""
    phase, gap = request["phase"], request.get("max_gap_s")
    by_hand = {t for t, _ in request.get("checks", [])}
    merged = dict(request["readings"]) | dict(request.get("checks", []))
    readings = without_strays(sorted(merged.items()), phase, by_hand)
    match phase:
        case "cook":
            return judge_cook(request, readings, gap)
        case "cool":
            return judge_cool(request, readings, gap)
        case "reheat":
            return judge_reheat(request, readings, gap)
        case "hold-hot" | "hold-cold":
            return judge_hold(request, readings, gap, phase == "hold-hot")
        case "time-control":
            return judge_clock(request, readings, gap)
        case "freeze":
            return judge_freeze(request, readings, gap)
    raise ValueError(phase)
