"""Brines and cures: how much salt and nitrite goes in, how far and by when, and what the law lets."""
