"""Asks uv's resolver whether everything that Cue Jar needs comes ready built for Windows and macOS (``--only-binary``).

Nothing is installed. Ends with 1 and says what is missing.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[1]
SYSTEMS = {
    "Windows": "x86_64-pc-windows-msvc",
    "macOS": "aarch64-apple-darwin",
    "Linux": "x86_64-unknown-linux-gnu",
}
PYTHONS = ("3.11", "3.12", "3.13")


def resolved(platform: str, python: str) -> tuple[int, str]:
    """Returns how many packages it takes, and what keeps it from being enough; empty: nothing does."""
    order = [sys.executable, "-m", "uv", "pip", "compile", "--quiet", "pyproject.toml", "--no-header", "--no-annotate"]
    order += ["--python-platform", platform, "--python-version", python, "--only-binary", ":all:"]
    done = subprocess.run(order, capture_output=True, text=True, cwd=ROOT)
    return len(done.stdout.split()), "" if done.returncode == 0 else done.stderr.strip()


def main() -> int:
    """Returns how many systems lack something."""
    wrong = 0
    for name, platform in SYSTEMS.items():
        for python in PYTHONS:
            count, why = resolved(platform, python)
            print(f"{name:8} Python {python}  {why or f'{count} packages, all ready built'}", flush=True)
            wrong += bool(why)
    return wrong


if __name__ == "__main__":
    sys.exit(1 if main() else 0)
