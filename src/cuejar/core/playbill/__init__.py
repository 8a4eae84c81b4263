"""The playbill: what viewers may read of the book, as a page and as text. Built on the rules, beside the snags."""
