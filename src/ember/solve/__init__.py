"""Inverse questions: what to change so that the piece lands where it is wanted."""
