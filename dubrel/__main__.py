"""``python -m dubrel`` is the same as ``dubrel``."""

import sys

from dubrel.cli import main

if __name__ == "__main__":
    sys.exit(main())
