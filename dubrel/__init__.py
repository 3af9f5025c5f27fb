"""Dubrel: transcribe, align, caption and publish recordings on your own machine."""

import os

__version__ = "0.1.0"

# onnxruntime 1.32 reports to its maker unless it is told not to before it is imported; every process of
# ours imports this package first, and its children inherit the environment
os.environ["ORT_DISABLE_TELEMETRY"] = "1"
