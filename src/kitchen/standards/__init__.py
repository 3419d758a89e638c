"""The standards as pages a cook can read, the chef's choice of one and the house's own limits."""
