"""Where things are in the repository."""

from pathlib import Path

TESTS = Path(__file__).parent
ROOT = TESTS.parent
