"""Loudness: the meter, true peak, levelling of sections, and the limiter."""
