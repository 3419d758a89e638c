"""Equipment: the error of thermometers, and the offset of settings."""
