"""Ways to cook a piece: chains of stages by school, each applicable to the cuts it suits and then owned by the plan."""
