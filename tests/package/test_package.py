"""The wheel alone, in an environment without this checkout and without Node: it installs offline, and the demo runs."""

from __future__ import annotations

import json
import os
import re
import subprocess
import tarfile
import zipfile
from collections.abc import Iterator
from pathlib import Path

import httpx
import pytest

from cuejar import __version__
from tests.running import client, free_ports, until

ROOT = Path(__file__).parents[2]
CLEAN = ROOT / ".stamps" / "package"
"""An environment with what the wheel needs, and nothing else (made by ``make``)."""
BIN = CLEAN / "bin"


@pytest.fixture(scope="module")
def bare(tmp_path_factory: pytest.TempPathFactory) -> dict[str, str]:
    """Installs the wheel without any index; its processes have no path to Node and don't know this checkout."""
    home = tmp_path_factory.mktemp("home")
    env = {"PATH": str(home), "HOME": str(home), "PYTHONNOUSERSITE": "1"}
    (wheel,) = (ROOT / "dist").glob("*.whl")
    order = [
        str(BIN / "python"),
        "-m",
        "pip",
        "install",
        "--quiet",
        "--no-index",
        "--no-deps",
        "--force-reinstall",
        str(wheel),
    ]
    subprocess.run(order, check=True, env=env, cwd=home, timeout=300)
    where = subprocess.run(
        [BIN / "python", "-c", "import cuejar; print(cuejar.__file__)"],
        env=env,
        cwd=home,
        capture_output=True,
        text=True,
    )
    assert str(CLEAN) in where.stdout
    return env


@pytest.fixture(scope="module")
def demo(bare: dict[str, str]) -> Iterator[int]:
    port = free_ports()
    home = Path(bare["HOME"])
    command = [str(BIN / "cuejar"), "demo", "--port", str(port), "--data", "data"]
    with (home / "demo.log").open("w") as log:
        process = subprocess.Popen(command, env=bare, cwd=home, stdout=log, stderr=log, start_new_session=True)
    try:
        until(lambda: httpx.get(f"http://127.0.0.1:{port}/api/health", trust_env=False).json()["channel"] == "in_step")
        yield port
    finally:
        process.terminate()
        process.wait(30)
    assert "Traceback" not in (home / "demo.log").read_text()


def test_the_demo_runs_from_the_wheel(demo: int) -> None:
    api = client(f"http://127.0.0.1:{demo}")
    page = api.get("/desk", headers={"accept": "text/html"})
    scripts = re.findall(r'(?:src|href)="(/assets/[^"]+)"', page.text)
    assert page.status_code == 200 and scripts
    assert all(api.get(script).status_code == 200 for script in scripts)
    assert api.get("/api/media").json() and not [one for one in api.get("/api/media").json() if one["missing"]]
    stand_in = client(f"http://127.0.0.1:{demo + 10}/channel")
    until(lambda: [r for r in stand_in.get("/rewards").json() if r["title"] == "Steam whistle"])
    body = {"viewer": "bramble_jo", "reward": "Steam whistle", "text": ""}
    made = stand_in.post("/redemptions", json=body).raise_for_status().json()
    until(lambda: stand_in.get(f"/redemptions/{made['id']}").json()["state"] == "fulfilled")
    assert "Steam whistle" in api.get("/api/playbill.md").text


def test_the_commands_run_from_the_wheel(bare: dict[str, str], demo: int) -> None:
    def cuejar(*arguments: str) -> str:
        done = subprocess.run(
            [BIN / "cuejar", *arguments], env=bare, cwd=bare["HOME"], capture_output=True, text=True, timeout=120
        )
        assert done.returncode == 0, done.stdout + done.stderr
        return done.stdout

    assert cuejar("--version") == f"Cue Jar {__version__}\n"
    found = json.loads(cuejar("doctor", "--json", "--port", str(demo), "--data", "fresh"))
    assert [row for row in found if row["grade"] == "wrong"] == []
    cuejar("export", "halt.zip", "--port", str(demo))
    assert "Imported" in cuejar("import", "halt.zip", "--data", "other", "--allow")
    with zipfile.ZipFile(Path(bare["HOME"]) / "halt.zip") as bundle:
        assert len([name for name in bundle.namelist() if name.startswith("media/")]) > 10


def test_what_is_in_the_packages() -> None:
    (wheel,) = (ROOT / "dist").glob("*.whl")
    (sdist,) = (ROOT / "dist").glob("*.tar.gz")
    with zipfile.ZipFile(wheel) as packed:
        names = packed.namelist()
        about = next(packed.read(name).decode() for name in names if name.endswith("/METADATA"))
    assert "License-Expression: GPL-3.0-or-later" in about
    for wanted in (
        "web/index.html",
        "web/overlay.html",
        "store/migrations/env.py",
        "api/mending.mustache",
        "api/mending.js",
    ):
        assert f"cuejar/{wanted}" in names
    assert not [name for name in names if name.endswith((".so", ".pyd"))], "it is for every machine"
    assert [name for name in names if name.endswith("LICENCES.md")] and [
        name for name in names if name.endswith("/LICENSE")
    ]
    assert not [name for name in names if name.startswith(("tests", "web/", "scripts", "bridges"))]
    with tarfile.open(sdist) as packed_too:
        inside = {name.partition("/")[2] for name in packed_too.getnames()}
    assert {
        "src/cuejar/web/index.html",
        "LICENSE",
        "LICENCES.md",
        "pyproject.toml",
        "Makefile",
        "CONTRIBUTING.md",
    } <= inside
    assert not [name for name in inside if "node_modules" in name]
    assert os.path.getsize(wheel) < 20_000_000
