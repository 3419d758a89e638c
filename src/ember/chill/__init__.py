"""After the heat: chilling against the clock, shelf life, reheating."""
