"""The released file: encode, tag, and read it back."""
