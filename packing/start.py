"""What a packed Cue Jar starts with: a double-click opens it in the browser; words after its name are commands."""

import multiprocessing

if __name__ == "__main__":
    multiprocessing.freeze_support()  # A worker process goes no further than this.
    from cuejar.cli import app

    app()
