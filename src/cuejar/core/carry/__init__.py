"""Export and import: what belongs together, what differs, what a book would become. Nothing here reads files."""
