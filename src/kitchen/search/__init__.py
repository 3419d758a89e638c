"""One search over everything, from any page."""
