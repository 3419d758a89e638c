"""Following a cook: the steps of a plan, its progress through them, and when the next one is due."""
