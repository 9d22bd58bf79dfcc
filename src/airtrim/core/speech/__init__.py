"""Speech: which words are said, and when."""

MODEL_RATE = 16_000
"""Rate in Hz that recogniser and aligner listen at."""

HOP_S = 0.01
"""Step in which edges are told."""

HOP = round(MODEL_RATE * HOP_S)
"""The same in samples of what they listen to."""
