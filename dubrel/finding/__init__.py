"""Finding: in the words, by sound, by meaning; what a recording is about; what may be wrong in it."""
