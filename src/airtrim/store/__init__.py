"""What is kept: tables in SQLite, sound and pictures as files beside them."""
