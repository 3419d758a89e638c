"""CookStatus a cook: the steps of a plan, where a cook stands in them, and when the next one is due."""
