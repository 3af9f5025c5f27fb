"""Films: captions drawn and burned in, streams put inside, a film of a sound, the fonts for them."""
