"""What holds a project together, and what is asked of it: no verbs here."""
