"""Whether the application lives, is ready, and how it does: for a service manager, a proxy, Prometheus and a person."""
