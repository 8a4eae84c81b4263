"""Packs Cue Jar for the system that this runs on: a folder and one archive, with no Python or Node needed (PyInstaller)."""

from __future__ import annotations

import shutil
import subprocess
import sys
import sysconfig
from pathlib import Path

from cuejar import __version__

ROOT = Path(__file__).parents[1]
OUT = ROOT / "dist" / "app"
NAME = "Cue Jar"


def main() -> None:
    work = ROOT / "build" / "app"
    order = [sys.executable, "-m", "PyInstaller", "--noconfirm", "--log-level", "ERROR"]
    order += ["--distpath", str(OUT), "--workpath", str(work), str(ROOT / "packing" / "cue-jar.spec")]
    subprocess.run(order, check=True, cwd=ROOT)
    folder = OUT / NAME
    for file in ("LICENSE", "LICENCES.md"):
        shutil.copy(ROOT / file, folder / file)
    form = "zip" if sys.platform in ("win32", "darwin") else "gztar"
    system = sysconfig.get_platform().replace(".", "_")
    archive = shutil.make_archive(str(OUT / f"cue-jar-{__version__}-{system}"), form, OUT, NAME)
    size = sum(path.stat().st_size for path in folder.rglob("*") if path.is_file() and not path.is_symlink())
    print(f"{folder}  {size / 1e6:.0f} MB\n{archive}  {Path(archive).stat().st_size / 1e6:.0f} MB")


if __name__ == "__main__":
    main()
