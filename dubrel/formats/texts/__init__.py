"""Forms of texts: documents, show notes, facing columns, chapters."""
