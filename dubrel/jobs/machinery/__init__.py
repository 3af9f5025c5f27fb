"""How jobs run: what they say, what becomes of it, the process of each."""
