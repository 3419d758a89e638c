"""The catalogue as pages, and a kitchen's own cuts."""
