"""Brines and cures: how much salt and nitrite goes in, how far and how fast, and what the law allows."""
