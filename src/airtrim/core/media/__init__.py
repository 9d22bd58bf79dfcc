"""Sound files in and out: decode, resample, lossless takes, peaks, encode."""

FRAME_RATE = 48_000
"""Frames a second of every take, timeline and render."""
