"""Photographs of cut faces: taken, framed, measured, and held against the face that was promised."""
