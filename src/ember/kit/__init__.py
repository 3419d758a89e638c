"""What is true of the equipment: thermometers and how far off they may be, settings and what they give."""
