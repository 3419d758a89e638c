"""What the catalogue says of a cut: what decides its cooking, by tissue and kind. Common practice."""

from __future__ import annotations

from ember.food.catalogue import Cut
from ember.methods.library import body_of

BIRD = "Breast and thigh: they are done at different temperatures, so read both."
MINCED = "The rule: mince must meet it all the way through."
PRESSED = "The rule: pressed or tenderised meat must meet it all the way through, not only on its faces."
CURED = "The core; it is bought cured, so salt and colour come with it."
TOUGH = "Time: its collagen melts over hours, hotter is quicker but drier."
COARSE = "The core, then the knife: long fibres, cut across them."
LEAN = "The core: lean, dry within a few degrees past its word."
FAT = "Its fat: render the cap first, the core decides after that."
SKIN = "The skin has to crisp before the core is there."
BONE = "The core beside the bone, which lags."
FISH = "The core: a few degrees lie between glassy and dry."
SHELL = "Seconds: small pieces tighten as soon as they are done."
TENDER = "The core: pull before its word and let it rest there."
KINDS = {"fish": FISH, "shellfish": SHELL, "molluscs": SHELL, "minced": MINCED}
TISSUES = (("minced", MINCED), ("pressed", PRESSED), ("tough", TOUGH), ("brined", CURED), ("coarse", COARSE),
           ("fat-capped", FAT), ("lean", LEAN), ("skin", SKIN), ("bone", BONE))  # fmt: skip


def decided_by(cut: Cut) -> str:
    """What decides how a cut is cooked, in a sentence."""
    if body_of(cut) == "bird":
        return BIRD
    if "tough" in cut.tissue:
        return TOUGH
    if cut.category in KINDS:
        return KINDS[cut.category]
    return next((words for tissue, words in TISSUES if tissue in cut.tissue), TENDER)
