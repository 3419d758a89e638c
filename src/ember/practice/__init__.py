"""Practice: the accuracy of a person's senses, and simulated cooks with a hidden truth."""
