"""Back-planning a service: dishes, companions and hands on the equipment there is, everything up at its time."""
