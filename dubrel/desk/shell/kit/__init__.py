"""Parts that pages are made of: theme, widgets, fields, tables, a sentence with blanks."""
