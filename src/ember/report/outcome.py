"""The outcome of a piece: core, doneness, inactivation, verdict, mass."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..files.plan import Plan
from ..files.result import CoreOut, DonenessOut, FaceBrowning, LethalityOut, SafetyOut
from ..files.stages import Bath, Boil, Medium, Oven, Poach, Simmer, Stage, Steam
from ..food.catalogue import Cut
from ..food.geometry import mass_of
from ..heat.grid import FloatArray
from ..heat.media import medium_c
from ..heat.numerics import between
from ..heat.problem import composition_of, density_of
from ..heat.row_course import RowCourse
from ..heat.trajectory import Trajectory
from ..judge.categories import category_of
from ..judge.doneness import Word, scale_of, word_for
from ..judge.inactivation import Inactivation, inactivations
from ..judge.record import TemperatureRecord
from ..judge.roast_ovens import OvenUse
from ..judge.standards import Standard
from ..judge.verdict import JudgedFood, Verdict, judge
from ..kinetics.browning import browning_index, browning_word
from ..kinetics.lethality import FLOOR_C
from .places import judged

HUMID_SHARE, HUMID_MIN = 0.9, 60.0  # US Food Code 3-401.11(B): over 90 % for an hour or more
IN_WATER = Bath | Simmer | Poach | Boil | Steam  # as in a bag that lets no moisture through: 100 % humid


def ovens_of(plan: Plan, minutes: Sequence[float]) -> tuple[OvenUse, ...] | None:
    """Each oven, bath or pot the piece is heated in, in order; None if the plan is a bare medium for verification.

    `minutes`: duration of each stage of the plan.
    """
    if any(isinstance(stage, Medium) for stage in plan.stages):
        return None
    humid_min = sum(lasts for stage, lasts in zip(plan.stages, minutes, strict=True) if _is_humid(stage))
    return tuple(
        _use(stage, humid_min >= HUMID_MIN) for stage in plan.stages if isinstance(stage, Oven | IN_WATER)
    )  # fmt: skip


def _is_humid(stage: Stage) -> bool:
    return isinstance(stage, Oven) and (stage.humid_share or 0.0) > HUMID_SHARE - 1e-9


def _use(stage: Stage, humid_enough: bool) -> OvenUse:
    if not isinstance(stage, Oven):
        return OvenUse("humid", medium_c(stage))
    if _is_humid(stage) and humid_enough:
        return OvenUse("humid", stage.air_c)
    return OvenUse("fan" if stage.mode in ("fan", "combi") else "still", stage.air_c)


GREY_FROM_C = 65.0  # red meat has lost most of its red here; common practice
MOST_LOGS = 99.0


@dataclass(frozen=True)
class Outcome:
    """A trajectory with its findings; `time_s`, `coldest_c`: the history of its coldest point.

    `category`: by the standard. `coldest_rule_c`: below it no rule of that category can be met however long; None if
    its faces may decide.
    """

    trajectory: Trajectory
    peak_c: float
    peak_s: float
    time_s: FloatArray
    coldest_c: FloatArray
    lethality: list[LethalityOut]
    verdict: Verdict
    word: Word
    coldest_rule_c: float | None
    category: str


@dataclass(frozen=True)
class Question:
    """What a standard judges: the history of the coldest point and of the colder face, and the piece."""

    plan: Plan
    rules: Standard
    food: JudgedFood
    time_s: FloatArray
    coldest_c: FloatArray
    face_c: FloatArray

    def at(self, time_s: FloatArray) -> Question:
        """The same at other times, straight between its own."""
        coldest_c, face_c = (np.interp(time_s, self.time_s, row) for row in (self.coldest_c, self.face_c))
        return replace(self, time_s=time_s, coldest_c=coldest_c, face_c=face_c)

    def verdict(self, samples: int | None = None) -> Verdict:
        """The verdict, on the first samples only if `count` is given."""
        part = slice(samples)
        record = TemperatureRecord(self.time_s[part], self.coldest_c[part])
        return judge(self.rules, self.food, record, self.face_c[part])


def food_of(
    plan: Plan, cut_entry: Cut, trajectory: Trajectory | None = None, history: Sequence[str] | None = None
) -> JudgedFood:
    """What a standard needs to know of a plan's piece; `history` replaces the plan's own.

    Without a trajectory the time in its ovens is unknown.
    """
    piece, runs = plan.piece, trajectory.stages if trajectory else ()
    return JudgedFood(
        category=category_of(cut_entry, plan.history if history is None else history, piece.origin, piece.treated),
        species=cut_entry.species, fat_pct=100.0 * composition_of(plan).fat,
        mass_g=mass_of(piece, cut_entry, density_of(plan)),
        susceptible=plan.guests == "susceptible", advisory=plan.advisory, house=plan.house,
        ovens=ovens_of(plan, [(run.end_s - run.start_s) / 60.0 for run in runs]) if runs else None,
    )  # fmt: skip


def question_of(plan: Plan, cut_entry: Cut, rules: Standard, trajectory: Trajectory) -> Question:
    """What a standard judges of a trajectory."""
    t = trajectory.fine_s
    # A pan heats the faces one after the other: the face that got least hot decides.
    nodes = (0, -1) if trajectory.grid.two_faces else (-1,)
    face = trajectory.node_c(t, min(nodes, key=lambda node: float(trajectory.temperature_c[:, node].max())))
    food = food_of(plan, cut_entry, trajectory)
    killing = inactivations(rules, food)["salmonella"]
    coldest = _least_killed(trajectory.t_s, trajectory.temperature_c, trajectory.grid.eaten_from, killing)
    if trajectory.row is None:
        return Question(plan, rules, food, t, trajectory.node_c(t, coldest), face)
    return Question(plan, rules, food, t, *_coldest_of_row(plan, trajectory, trajectory.row, killing, t))


def outcome_of(plan: Plan, cut_entry: Cut, rules: Standard, trajectory: Trajectory) -> Outcome:
    """Judge a trajectory of a plan."""
    question = question_of(plan, cut_entry, rules, trajectory)
    t, coldest, food = question.time_s, question.coldest_c, question.food
    verdict = question.verdict()
    peak_c, peak_s = trajectory.peak()
    rules_asked = food.rules(rules)
    by_faces = any(rule.kind == "surface" for rule in rules_asked)
    coldest_rule_c = None if by_faces or not rules_asked else min(rule.points_c[0][0] for rule in rules_asked)
    own = plan.piece.own_cut
    words = scale_of(cut_entry.doneness, own.doneness if own else ())
    return Outcome(
        trajectory, peak_c, peak_s, t, coldest, _lethality(rules, food, verdict, t, coldest), verdict,
        word_for(words, peak_c), coldest_rule_c, food.category,
    )  # fmt: skip


def _lethality(
    rules: Standard, food: JudgedFood, verdict: Verdict, t: FloatArray, coldest_c: FloatArray
) -> list[LethalityOut]:
    """By organism; for the one whose table gave the verdict the verdict's own number."""
    lethalities = []
    for key, one in inactivations(rules, food).items():
        log10 = verdict.reached["log10"] if key == verdict.organism else float(one.steps(t, coldest_c).sum())
        lethalities.append(LethalityOut(organism=key, log10=round(min(log10, MOST_LOGS), 3), reference=one.source))
    return lethalities


def _coldest_of_row(
    plan: Plan, trajectory: Trajectory, course: RowCourse, killing: Inactivation, at_s: FloatArray
) -> tuple[FloatArray, FloatArray]:  # fmt: skip
    """Histories of the coldest point and of the coldest face of all sections that are judged."""
    sections = np.flatnonzero(judged(plan, course))
    T, slope = course.temperature_c[:, sections], course.slope_k_s[:, sections]
    n = T.shape[2]
    flat, flat_slope = T.reshape(len(T), -1), slope.reshape(len(T), -1)
    coldest = _least_killed(trajectory.t_s, flat, 0, killing, every=1)
    faces = np.arange(len(sections)) * n + n - 1
    if trajectory.grid.two_faces:
        faces = np.concatenate([faces, faces - (n - 1)])
    face = faces[int(np.argmin(flat[:, faces].max(axis=0)))]
    return (
        between(trajectory.t_s, flat[:, coldest], flat_slope[:, coldest], at_s),
        between(trajectory.t_s, flat[:, face], flat_slope[:, face], at_s),
    )


def _least_killed(t: FloatArray, T: FloatArray, begins: int, killing: Inactivation, every: int = 4) -> int:
    """The node of T[time, node] with the least reduction of Salmonella, from `begins` on; depths are smooth: only some
    nodes first (`every`), then those around the least.
    """
    hot = np.flatnonzero(T.max(axis=1) >= FLOOR_C)
    if not hot.size:  # nothing died anywhere: the place that stayed coldest
        return begins + int(np.argmin(T[:, begins:].max(axis=0)))
    # Nothing dies below the floor: the warm part only, with the samples just before and after it.
    part = slice(max(int(hot[0]) - 1, 0), int(hot[-1]) + 2)

    def least(nodes: FloatArray) -> int:
        # Where it was never colder than at one of the others, no less has died.
        warm = T[part][:, nodes]
        coolest = int(np.argmin(warm.max(axis=0)))
        colder = np.flatnonzero((warm < warm[:, [coolest]]).any(axis=0))
        nodes = nodes[np.append(colder, coolest)]
        doses = killing.steps(t[part], T[part][:, nodes]).sum(axis=0)
        if doses.max() <= 0:
            return int(nodes[np.argmin(T[:, nodes].max(axis=0))])
        return int(nodes[np.argmin(doses)])

    first = least(np.unique(np.append(np.arange(begins, T.shape[1], every), [T.shape[1] // 2, T.shape[1] - 1])))
    if every == 1:
        return first
    return least(np.arange(max(first - 3, begins), min(first + 4, T.shape[1])))


def safety_out(rules: Standard, verdict: Verdict) -> SafetyOut:
    """A verdict in the result's form."""
    return SafetyOut(
        standard=rules.id, rule=verdict.rule.id, section=verdict.rule.section, edition=rules.edition,
        text=verdict.rule.text, kind=verdict.rule.kind, state=verdict.state.value, met=verdict.met,
        margin=round(max(min(verdict.margin, 999.0), -999.0), 3), margin_unit=verdict.margin_unit,
        needed=verdict.needed, reached=verdict.reached, organism=verdict.organism, reason=verdict.reason,
        words=verdict.words, needs_probe=verdict.needs_probe,
        advisory_allowed=verdict.advisory_allowed, cautions=list(verdict.cautions),
    )  # fmt: skip


def core_out(outcome: Outcome, from_s: float) -> CoreOut:
    """The centre; the peak reading is searched from the pull at `from_s` on."""
    trajectory = outcome.trajectory
    after = trajectory.reading_c(np.linspace(from_s, trajectory.end_s, 60))
    return CoreOut(
        peak_c=round(outcome.peak_c, 3), peak_s=round(outcome.peak_s, 1), peak_reading_c=round(float(after.max()), 2),
        end_c=round(float(trajectory.core_c[-1]), 3),
    )  # fmt: skip


def doneness_out(outcome: Outcome, target: Word | None, window_s: float | None) -> DonenessOut:
    """The word of the peak core, and the grey band."""
    word = outcome.word
    return DonenessOut(
        word=word.word, low_c=word.low_c, high_c=word.high_c, target=target.word if target else None,
        target_low_c=target.low_c if target else None, target_high_c=target.high_c if target else None,
        grey_band_mm=round(_grey_band_mm(outcome.trajectory), 2),
        window_s=None if window_s is None else round(window_s, 0),
    )  # fmt: skip


def _grey_band_mm(trajectory: Trajectory) -> float:
    """Depth from the faces that got hotter than GREY_FROM_C, mm; the deeper of the two."""
    x, hot = trajectory.grid.x_m * 1e3, trajectory.hottest_c
    if hot.min() >= GREY_FROM_C:
        return float(trajectory.grid.half_m * 1e3)

    def depth(distance: FloatArray, heat: FloatArray) -> float:
        """Depth from a face inwards to where the temperature falls below the limit."""
        if heat[0] < GREY_FROM_C:
            return 0.0
        i = int(np.argmax(heat < GREY_FROM_C))
        share = (heat[i - 1] - GREY_FROM_C) / (heat[i - 1] - heat[i])
        return float(distance[i - 1] + share * (distance[i] - distance[i - 1]))

    top = depth(x[-1] - x[::-1], hot[::-1])
    return max(depth(x, hot), top) if trajectory.grid.two_faces else top


def browning_of(trajectory: Trajectory) -> list[FaceBrowning]:
    """Browning of the faces, at their spots of best contact."""
    columns = {"under": 0, "top": 1} if trajectory.grid.two_faces else {"outside": 1}
    sides = []
    for name, column in columns.items():
        index = float(browning_index(trajectory.t_s, trajectory.browning_c[:, column]))
        sides.append(FaceBrowning(face=name, index=round(min(index, 99.0), 3), word=browning_word(index)))
    return sides
