"""Settings: base, and what differs on one machine, in tests and behind a proxy."""
