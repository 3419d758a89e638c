"""How a kitchen begins: the first chef's one-time address, and the same from a shell."""
