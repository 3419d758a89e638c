"""Backups: everything in one file, taken while people work, and restored into an empty place to the last row."""
