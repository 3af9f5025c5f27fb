"""What is kept for the user on this machine: settings, styles, terms, voices, recent projects, keys."""
