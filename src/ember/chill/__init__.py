"""After the heat: chilled against the clock, kept until its day, brought back to temperature."""
