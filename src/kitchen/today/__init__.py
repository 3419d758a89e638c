"""What needs somebody now: the first page after sign-in."""
