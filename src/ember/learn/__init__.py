"""Calibration from finished cooks: offsets of ovens and baths, contact of pans, thickness of pieces."""
