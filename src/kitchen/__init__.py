"""The web application: a kitchen's plans, running cooks and records around the core."""
