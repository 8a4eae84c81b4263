# Two programs over the same files: one for a double-click, one for a terminal (they differ on Windows alone).
import sys
from pathlib import Path

from PyInstaller.utils.hooks import collect_all

HERE = Path(SPECPATH)
datas, binaries, hidden = [], [], []
for package in ("espeakng_loader", "opentimelineio", "keyring", "webvtt", "uvicorn", "websockets", "alembic", "coloraide", "pocketsphinx", "sounddevice"):
    more = collect_all(package)
    datas, binaries, hidden = datas + more[0], binaries + more[1], hidden + more[2]
# Both choose the module of the system by name, and can only be asked for it where there is a desktop.
SYSTEM = {"win32": ["_win32"], "darwin": ["_darwin"]}.get(sys.platform, ["_xorg"])
BY_NAME = [f"pystray.{one}" for one in SYSTEM]
BY_NAME += [f"pynput.{part}.{one}" for part in ("keyboard", "mouse") for one in SYSTEM]

analysis = Analysis(
    [str(HERE / "start.py")],
    pathex=[str(HERE.parent / "src")],
    binaries=binaries,
    datas=datas,
    hiddenimports=[*hidden, "cuejar", *BY_NAME],
    hookspath=[str(HERE)],
    excludes=["tkinter", "pytest", "hypothesis", "trio", "mypy", "IPython", "matplotlib", "pandas", "PyInstaller", "setuptools", "pip"],
)
archive = PYZ(analysis.pure)


def program(name, console):
    return EXE(
        archive, analysis.scripts, [], exclude_binaries=True, name=name, console=console, upx=False,
        icon=str(HERE / "cue-jar.png") if (HERE / "cue-jar.png").exists() and sys.platform == "win32" else None,
    )


COLLECT(
    program("Cue Jar", False), program("cuejar", True), analysis.binaries, analysis.datas, upx=False, name="Cue Jar"
)
