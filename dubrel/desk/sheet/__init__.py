"""The page in the middle: turns to be read and corrected, captions as stanzas."""
