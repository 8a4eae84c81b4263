"""``python -m cuejar.cli``."""

from cuejar.cli import app

if __name__ == "__main__":
    app()
