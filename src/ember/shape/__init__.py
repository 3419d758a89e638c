"""The piece's true outline, and the sections that heat is followed in."""
