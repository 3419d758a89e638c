"""Eggs: kinds and bodies, and what each method does to them, from the shell to the custard."""
