"""Whole nights: made up by an audience or recorded, played against a book, added up, and compared."""
