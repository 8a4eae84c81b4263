"""Carrying away and bringing in: what belongs together, what differs, what would become of a book. Nothing here reads files."""
