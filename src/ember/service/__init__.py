"""Back-planning a service: dishes, companions and cooks on the equipment available, everything ready at its time."""
