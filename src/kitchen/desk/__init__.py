"""Desks: benches whose state is their address, for eggs, brines and chilling. Forms as tables, and what a desk
shows.
"""
