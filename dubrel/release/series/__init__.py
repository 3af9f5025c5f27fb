"""What a whole series is released as: a page with one search, a feed, a table."""
