"""A passage between an in and an out point, or what is selected: worked on by itself."""
