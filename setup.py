"""The wheels. With CUEJAR_COMPILED=1 one for this system, with the compiled engine; else the pure one, for every system."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

from setuptools import Distribution, setup
from setuptools.command.build_py import build_py

HOME = Path(__file__).parent
PACKAGE = HOME / "src" / "cuejar"


class Compiled(Distribution):
    """A distribution with compiled modules, whose wheel is for one system and one Python."""

    def has_ext_modules(self) -> bool:
        return True


def compiled() -> list[str]:
    """Compiles the engine, and returns its files. Exits with an error if it can't be."""
    environment = {**os.environ, "PYTHONPATH": f"{HOME}{os.pathsep}{HOME / 'src'}"}
    subprocess.run([sys.executable, "-m", "scripts.compiled"], cwd=HOME, env=environment, check=True)
    ask = "from cuejar.compiling import made; print(*made().values(), sep='\\n')"
    told = subprocess.run(
        [sys.executable, "-c", ask], cwd=HOME, env=environment, check=True, capture_output=True, text=True
    )
    files = [str(Path(line).relative_to(PACKAGE)) for line in told.stdout.split("\n") if line]
    if not files:
        sys.exit("The engine couldn’t be compiled, so there is no wheel for this system.")
    return files


class WithEngine(build_py):
    """Takes the compiled engine along."""

    def run(self) -> None:
        super().run()
        for file in compiled():
            to = Path(self.build_lib, "cuejar", file)
            to.parent.mkdir(parents=True, exist_ok=True)
            shutil.copyfile(PACKAGE / file, to)


if os.environ.get("CUEJAR_COMPILED"):
    setup(distclass=Compiled, cmdclass={"build_py": WithEngine})
else:
    setup()
