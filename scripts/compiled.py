"""Compiles the engine and its rules (mypyc). Without a C compiler nothing is made, and the sources are used."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import sysconfig
import tempfile
from pathlib import Path

from cuejar.compiling import FOLDER, PACKAGE, SHARED, compiled_modules, digest, made

SETUP = """
from mypyc.build import mypycify
from setuptools import setup

modules = mypycify(
    ["--config-file=", "--ignore-missing-imports", "--follow-imports=silent", "--cache-dir={cache}", *{modules}],
    opt_level="1", debug_level="0", group_name="{shared}",
)
setup(name="compiled", ext_modules=modules)
"""
"""At the first level of optimisation: the higher ones take longer and bring nothing here."""


def can_compile() -> bool:
    """Returns whether this machine has a C compiler and Python's headers."""
    has_headers = Path(sysconfig.get_paths()["include"], "Python.h").is_file()
    # On Windows the compiler isn't in the path; setuptools finds it, or says that there is none.
    return has_headers and (sys.platform == "win32" or shutil.which(os.environ.get("CC", "cc")) is not None)


def main() -> None:
    there = FOLDER / digest()
    if "--check" in sys.argv:
        sys.exit(
            "The engine could be compiled here, and is not: python -m scripts.compiled"
            if can_compile() and not made()
            else 0
        )
    if there.is_dir():
        return
    if not can_compile():
        print(
            "There is no C compiler, or no headers of Python: the engine is not compiled. It does the same, half as fast."
        )
        return
    modules = [f"{module.replace('.', '/')}.py" for module in compiled_modules()]
    cache = Path.cwd() / ".mypy_cache" / "compiled"
    with tempfile.TemporaryDirectory() as folder:
        work = Path(folder)
        shutil.copytree(PACKAGE, work / "cuejar", ignore=shutil.ignore_patterns("web", "compiled", "__pycache__"))
        (work / "setup.py").write_text(SETUP.format(cache=cache, modules=modules, shared=SHARED), "utf-8")
        built = work / "built"
        told = subprocess.run(
            [sys.executable, "setup.py", "--quiet", "build_ext", "--build-lib", str(built)],
            cwd=work, env={**os.environ, "CUEJAR_INTERPRETED": "1"}, capture_output=True, text=True, check=False,
        )  # fmt: skip
        if told.returncode:
            print(told.stdout[-2000:], told.stderr[-4000:], sep="\n", file=sys.stderr)
            print("The engine couldn’t be compiled. It still works, at half the speed.", file=sys.stderr)
            return
        shutil.rmtree(FOLDER, ignore_errors=True)
        FOLDER.mkdir()
        arrives = FOLDER / ".arrives"
        shutil.copytree(built, arrives)
        arrives.rename(there)


if __name__ == "__main__":
    main()
