"""The egg bench's forms, one a method, and the tabs they belong to."""

from __future__ import annotations

from .base import EggForm
from .pan import OmeletteForm, ScrambleForm
from .sauces import CustardForm, PastaForm, SauceForm, StirredForm
from .whole import CLOCK, YOLK_WORDS, BoilForm, CirculatorForm, PoachForm, SteamForm

__all__ = ["BESIDE", "CLOCK", "FORMS", "TABS", "TAB_OF", "YOLK_WORDS", "EggForm"]

FORMS: dict[str, type[EggForm]] = {
    form.METHOD: form
    for form in (
        BoilForm, SteamForm, CirculatorForm, PoachForm, ScrambleForm, OmeletteForm, SauceForm, PastaForm, CustardForm,
        StirredForm,
    )
}  # fmt: skip
TABS = (
    ("boil", "Boil"), ("steam", "Steam"), ("circulator", "Circulator"), ("poach", "Poach"), ("scramble", "Scramble"),
    ("omelette", "Omelette"), ("emulsion", "Warm sauce"), ("custard", "Custard"),
)  # fmt: skip
TAB_OF = {"pasta": "emulsion", "stirred": "custard"}
BESIDE = {
    "emulsion": (("emulsion", "Butter sauce"), ("pasta", "With pasta")),
    "custard": (("custard", "Baked"), ("stirred", "Stirred")),
}  # fmt: skip
