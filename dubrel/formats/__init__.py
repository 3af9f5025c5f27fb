"""One file a format, each a reader and/or a writer; ``register`` knows them by suffix."""
