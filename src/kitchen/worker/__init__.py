"""The worker beside the web server: how it runs, that it lives, and what a killed one left behind."""
