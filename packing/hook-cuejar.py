"""What PyInstaller cannot see in the sources: files beside them, and modules that are imported by name."""

from pathlib import Path

from PyInstaller.utils.hooks import collect_data_files, collect_submodules

from cuejar.compiling import PACKAGE, made

datas = collect_data_files("cuejar", include_py_files=False, excludes=["compiled/**", "web/audience.html.map"])
datas += collect_data_files("cuejar", subdir="store/migrations", include_py_files=True)
datas += [(str(path), str(Path("cuejar") / path.relative_to(PACKAGE).parent)) for path in made().values()]
hiddenimports = [*collect_submodules("cuejar"), "logging.config"]
# The sources lie beside the archive, too: the compiled engine counts only while it was built from them.
module_collection_mode = {"cuejar.core": "pyz+py"}
