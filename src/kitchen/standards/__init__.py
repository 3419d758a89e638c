"""The standards as readable pages, the chef's choice of one, and the house's own limits."""
