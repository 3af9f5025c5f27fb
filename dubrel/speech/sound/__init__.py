"""What a sound is like: speech or none, kinds of sound, quality."""
