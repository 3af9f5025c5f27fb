"""Texts spoken by a voice, in the time that they have."""
