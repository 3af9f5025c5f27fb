"""What translates: by models, by rules, letter by letter, at a service; and the languages they know."""
