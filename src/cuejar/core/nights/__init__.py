"""Whole nights: made up by an audience or recorded, played with a book, added up, and compared."""
