"""Licences of everything that ships, as LICENCES.md: Python packages that Cue Jar needs, and packages in the pages.

``python -m scripts.licences`` writes the list; ``--check`` fails if something is missing from it, or incompatible with
GPL-3.0-or-later.
"""

from __future__ import annotations

import json
import re
import sys
from collections.abc import Iterator
from importlib import metadata
from pathlib import Path
from typing import NamedTuple

from packaging.requirements import Requirement

ROOT = Path(__file__).parents[1]
LIST = ROOT / "LICENCES.md"
EXTRAS = ("keys", "bridges", "voice")
"""What is offered beside what is needed; the tools of developers do not ship."""
GOES = {
    "0BSD", "Apache-2.0", "BSD-2-Clause", "BSD-3-Clause", "BlueOak-1.0.0", "CC0-1.0", "GPL-2.0-or-later", "GPL-3.0-only",
    "GPL-3.0-or-later", "HPND", "ISC", "LGPL-2.1-or-later", "LGPL-3.0-only", "LGPL-3.0-or-later", "MIT", "MIT-0", "MIT-CMU", "MPL-2.0",
    "OFL-1.1", "PSF-2.0", "Python-2.0", "Unlicense", "Zlib",
}  # fmt: skip
"""What may be in a work under GPL-3.0-or-later (the list of the Free Software Foundation)."""
KNOWN = {
    "espeakng-loader": "MIT AND GPL-3.0-or-later",  # The wheel contains eSpeak NG and its voices.
    "pyahocorasick": "BSD-3-Clause AND Unlicense",  # Parts of it are in the public domain.
    "pebble": "LGPL-3.0-or-later",  # As its file says.
    "av": "BSD-3-Clause AND GPL-2.0-or-later",  # The wheel contains FFmpeg with x264.
}
"""Where a package's own information is incomplete."""
_WORDS = {
    "mit": "MIT",
    "mit license": "MIT",
    "the mit license (mit)": "MIT",
    "bsd": "BSD-3-Clause",
    "bsd license": "BSD-3-Clause",
    "bsd-3-clause license": "BSD-3-Clause",
    "new bsd": "BSD-3-Clause",
    "3-clause bsd": "BSD-3-Clause",
    "apache 2.0": "Apache-2.0",
    "apache license 2.0": "Apache-2.0",
    "apache software license": "Apache-2.0",
    "apache license, version 2.0": "Apache-2.0",
    "modified apache 2.0 license": "Apache-2.0",
    "mozilla public license 2.0 (mpl 2.0)": "MPL-2.0",
    "isc license (iscl)": "ISC",
    "isc": "ISC",
    "gnu lesser general public license v3 (lgplv3)": "LGPL-3.0-only",
    "lgplv3": "LGPL-3.0-only",
    "the unlicense (unlicense)": "Unlicense",
    "public domain": "Unlicense",
    "this is free and unencumbered software released into the public domain.": "Unlicense",
    "gnu lesser general public license v2 or later (lgplv2+)": "LGPL-2.1-or-later",
    "python software foundation license": "PSF-2.0",
    "psf-2.0": "PSF-2.0",
}


class Shipped(NamedTuple):
    """Something that ships: what it belongs to, its name, its version, its licence as an SPDX expression."""

    of: str
    name: str
    version: str
    licence: str


def _python() -> Iterator[Shipped]:
    waiting, met = ["cuejar"], set[str]()
    while waiting:
        name = waiting.pop()
        key = re.sub(r"[-_.]+", "-", name).lower()
        if key in met:
            continue
        met.add(key)
        try:
            found = metadata.distribution(name)
        except metadata.PackageNotFoundError:
            continue
        for line in found.requires or []:
            wanted = Requirement(line)
            extras = EXTRAS if key == "cuejar" else ("", "standard")
            if wanted.marker is None or any(wanted.marker.evaluate({"extra": extra}) for extra in extras):
                waiting.append(wanted.name)
        if key != "cuejar":
            yield Shipped("Python", key, found.version, KNOWN.get(key) or _said(found))


def _said(found: metadata.Distribution) -> str:
    about = found.metadata
    expression = about.get("License-Expression")
    if expression:
        return str(expression)
    classified = [
        line.split(" :: ")[-1]
        for line in about.get_all("Classifier") or []
        if line.startswith("License ::") and line.count(" :: ") > 1
    ]
    short = str(about.get("License") or "").strip().splitlines()[:1]
    for words in [*classified, *short]:
        if words in GOES or words.lower() in _WORDS:
            return _WORDS.get(words.lower(), words)
    return " / ".join([*classified, *short]) or "not said"


def _web() -> Iterator[Shipped]:
    lock = json.loads((ROOT / "web" / "package-lock.json").read_text("utf-8"))
    for path, package in lock["packages"].items():
        if path and not package.get("dev") and not package.get("optional") and not package.get("peer"):
            name = path.rsplit("node_modules/", 1)[-1]
            yield Shipped("Pages", name, package["version"], package.get("license", "not said"))


def shipped() -> list[Shipped]:
    """Returns everything that ships, sorted."""
    return sorted({*_python(), *_web()})


def goes(licence: str) -> bool:
    """Returns whether something with this licence may ship: any one of alternatives, or all of several together."""
    plain = licence.replace("(", " ").replace(")", " ")
    return any(all(part.strip() in GOES for part in way.split(" AND ")) for way in plain.split(" OR "))


def told(rows: list[Shipped]) -> str:
    """Returns the list as Markdown."""
    lines = [
        "# Licences of all that ships",
        "",
        "Cue Jar is under GPL-3.0-or-later ([LICENSE](LICENSE)), as the library is that reads aloud. Made by "
        "`python -m scripts.licences`; `make check` fails where something is not in it, or does not go with that.",
        "",
        "Fonts: Bricolage Grotesque and Atkinson Hyperlegible (OFL-1.1). Marks and pictures of the demo: ours. Other icons: "
        "`@element-plus/icons-vue` (MIT).",
        "",
        "| of | what | version | licence |",
        "|---|---|---|---|",
    ]
    return "\n".join([*lines, *(f"| {row.of} | {row.name} | {row.version} | {row.licence} |" for row in rows)]) + "\n"


def main(check: bool) -> int:
    rows = shipped()
    wrong = [f"{row.name}: “{row.licence}” does not go with GPL-3.0-or-later" for row in rows if not goes(row.licence)]
    if check:
        there = LIST.read_text("utf-8") if LIST.is_file() else ""
        wrong += [
            f"{row.name} {row.version} ({row.licence}) is not in LICENCES.md: run python -m scripts.licences"
            for row in rows
            if f"| {row.of} | {row.name} | {row.version} | {row.licence} |" not in there
        ]
    else:
        LIST.write_text(told(rows), "utf-8")
    print("\n".join(wrong) or f"{len(rows)} ship, and all of them go with it.")
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main("--check" in sys.argv))
