"""Sound as it comes from a microphone."""
