"""Heat: media, boundary conditions, the conduction solver, and the chain of stages."""
