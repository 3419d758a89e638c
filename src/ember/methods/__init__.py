"""Methods to cook a piece: chains of stages, each applicable to the cuts it suits and then owned by the plan."""
