"""Where the command ``cuejar`` begins. Every worker process reads this file when it starts: it imports nothing."""


def run() -> None:
    from cuejar.cli import app

    app()
