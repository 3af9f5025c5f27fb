"""Sound in, text out: recognisers, and what is around them."""
