"""How the small weights that ship with Air Trim were made. Not needed to run it."""
