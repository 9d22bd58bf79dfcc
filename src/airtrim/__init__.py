"""Air Trim: record, trim, even out and release spoken episodes."""
