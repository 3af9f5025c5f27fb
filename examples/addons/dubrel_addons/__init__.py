"""A form, a recogniser, a translator and a check of one's own."""
