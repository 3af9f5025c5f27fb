"""``python -m dubrel`` is the same as ``dubrel``."""

import sys

from dubrel.cli import run

if __name__ == "__main__":
    sys.exit(run())
