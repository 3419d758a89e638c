"""Kitchens that work together: shared plans, standards and house limits, and one page that reads across them."""
