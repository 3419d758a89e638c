"""Desks: benches whose state is their address, for eggs and for brines. Forms as tables, and what a desk shows."""
