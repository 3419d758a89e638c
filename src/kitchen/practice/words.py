"""What practice says, by code."""

from __future__ import annotations

# Senses within a sentence.
SHORT = {"pin": "the cake tester", "cut": "the cut face", "juices": "the juices", "press": "the press",
         "opacity": "the opacity", "wobble": "the wobble", "float": "the float"}  # fmt: skip
# Drills: name, and what to do.
DRILLS = {
    "pan": ("In the pan", "Turn, baste, move to the oven, pull, rest and cut, judging by the pan and the piece."),
    "scramble": ("Scramble", "Take it off the heat before it is done: the pan keeps cooking."),
    "poach": ("Poach", "Lift it by the look of the white."),
    "custard": ("Custard", "Take it out of the oven while the centre still wobbles."),
    "lay": ("Order in the pan", "Lay clockwise, turn and take out in the same order."),
}
# Signs on the page of a drill, and places.
SIGNS = {"sizzle": "You hear", "face": "The top face is", "juices": "On the surface", "firmness": "Pressed",
         "pin": "Cake tester on the lip"}  # fmt: skip
PLACES = {"pan": "in the pan", "oven": "in the oven", "rest": "resting"}
