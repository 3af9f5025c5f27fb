"""A series on the desk: its page, and what is done with all of its episodes."""
