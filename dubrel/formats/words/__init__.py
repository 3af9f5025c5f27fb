"""Forms of words and pairs: times, speakers, translation memories, terms."""
