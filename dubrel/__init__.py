"""Dubrel: transcribe, align, caption and publish recordings on your own machine."""

__version__ = "0.1.0"
