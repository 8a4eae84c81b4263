"""The playbill: what viewers may read of the book, as a page and as a text. Stands above the rules, beside the snags."""
