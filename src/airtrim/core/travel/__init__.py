"""What an episode is to other tools: tracks, a cut list, chapters and markers."""
