"""Doneness words, the standards' rules as data, and verdicts on a simulated cook or on readings."""
