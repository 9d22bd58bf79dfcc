"""Requests and responses, by topic. Time is in frames at 48 kHz, loudness in LUFS, gain in dB."""
