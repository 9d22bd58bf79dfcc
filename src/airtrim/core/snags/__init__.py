"""Snags: what the listener should not hear, found for the host, and what would be done about it."""
