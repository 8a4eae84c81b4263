"""``python -m cuejar.cli``."""

from cuejar.command import run

if __name__ == "__main__":
    run()
