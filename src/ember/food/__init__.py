"""What is cooked: composition and thermal properties, the catalogue of cuts, geometry."""
