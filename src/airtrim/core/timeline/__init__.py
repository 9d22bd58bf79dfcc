"""The document of an episode: a frozen timeline, the edits on it, and the words it holds."""
