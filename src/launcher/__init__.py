"""Sets the machine up, runs the database and the server, and runs the checks. Standard library only."""
