"""What a screen reader gets of what is drawn by hand, and what is announced."""
