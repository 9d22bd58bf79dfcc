"""The HTTP face: requests in, models out. No rules of the job live here."""
