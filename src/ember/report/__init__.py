"""What a trajectory says to a cook: curves, outcome, warnings; each a part of the result."""
