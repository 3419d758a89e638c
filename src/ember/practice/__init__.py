"""Practice: how far off a person's senses are, and cooks on paper whose truth is hidden."""
