"""Speech: which words are said, and when."""
