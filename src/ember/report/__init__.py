"""From a trajectory to its result: curves, outcome, warnings."""
