"""Makes a wheel with the compiled engine fit for other computers with this system, and tries it.

``python -m scripts.wheels FOLDER ENVIRONMENT``: FOLDER has one wheel; ENVIRONMENT has all that Cue Jar needs.
"""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

TRIED = """
from cuejar.core.engine.engine import Engine
from cuejar.compiling import is_compiled
assert is_compiled(), "the engine isn’t compiled there"
assert Engine.__module__ == "cuejar.core.engine.engine" and not hasattr(Engine.__init__, "__code__")
"""


def main(folder: Path, environment: Path) -> None:
    environment = environment.absolute()
    (wheel,) = folder.glob("*.whl")
    if sys.platform == "linux":
        # Says by which systems it can be used, and fails if it needs a library that isn't on every one.
        order = [sys.executable, "-m", "auditwheel", "repair", "--wheel-dir", folder, wheel]
        tools = {**os.environ, "PATH": f"{Path(sys.executable).parent}{os.pathsep}{os.environ['PATH']}"}
        subprocess.run(order, check=True, capture_output=True, env=tools)
        wheel.unlink()
        (wheel,) = folder.glob("*.whl")
    python = next(
        path for path in (environment / "bin" / "python", environment / "Scripts" / "python.exe") if path.exists()
    )
    install = [
        python,
        "-m",
        "pip",
        "install",
        "--quiet",
        "--no-index",
        "--no-deps",
        "--force-reinstall",
        wheel.resolve(),
    ]
    subprocess.run(install, check=True)
    subprocess.run([python, "-c", TRIED], check=True, cwd=environment)
    print(f"{wheel.name}: {wheel.stat().st_size / 1e6:.1f} MB, compiled and tried")


if __name__ == "__main__":
    main(Path(sys.argv[1]), Path(sys.argv[2]))
