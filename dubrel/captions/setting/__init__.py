"""Words set into captions: by search over chains of words, at the prices of costs."""
