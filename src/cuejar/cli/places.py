"""Which data folder a command means: the one it names, else that of the Cue Jar that runs here, else the one used last."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterator
from pathlib import Path
from typing import NamedTuple

import typer

from cuejar.cli.base import answers, fail, settings_of
from cuejar.platform import Lock, Taken, open_private
from cuejar.settings import Settings

PORT_FILE = "port"
"""The file of a data folder with the port of the Cue Jar that runs on it."""


class Place(NamedTuple):
    """Where a command finds its data.

    Attributes:
        port: of the Cue Jar that runs there; None: nothing runs.
    """

    folder: Path
    port: int | None

    @property
    def runs(self) -> bool:
        return self.port is not None

    def there(self) -> Path:
        """Returns the folder. Exits with 2 if it doesn't exist: there is nothing to read."""
        if not self.folder.is_dir():
            fail(f"There is no data folder {self.folder} yet. Start Cue Jar, or name one with --data.", 2)
        return self.folder


def place_of(port: int | None, data: Path | None, tell: bool = True) -> Place:
    """Returns the place that a command means, and prints it to the standard error if it wasn't named.

    Args:
        tell: False: it matters too little to be printed.
    """
    settings = settings_of(port, data)
    usual = settings.data.expanduser().resolve()
    if port is not None:
        return Place(usual, port)
    named = "data" in settings.model_fields_set
    folders = [usual] if named else [*_last(settings), usual]
    running = ((folder, found) for folder in folders if (found := running_on(folder)) is not None)
    folder, found = next(running, (folders[0], None))
    if tell and not named:
        at = f", Cue Jar runs at port {found}" if found is not None else ""
        typer.echo(f"Data folder {folder}{at}", err=True)
    return Place(folder, found)


def running_on(folder: Path) -> int | None:
    """Returns the port of the Cue Jar that runs on a folder. What the last one left there counts only while one does."""
    if not (folder / PORT_FILE).is_file():
        return None
    try:
        Lock(folder / ".lock").close()
    except Taken:
        with contextlib.suppress(OSError, ValueError):
            port = int((folder / PORT_FILE).read_text("ascii"))
            return port if answers(port) else None
    except OSError:
        pass
    return None


def note(folder: Path, settings: Settings) -> None:
    """Writes down that a Cue Jar runs on a folder, so that commands find it. Not being able to changes nothing else."""
    with contextlib.suppress(OSError):
        (folder / PORT_FILE).write_text(str(settings.port), "ascii")
    with contextlib.suppress(OSError):
        settings.last.parent.mkdir(parents=True, exist_ok=True)
        draft = settings.last.with_name(f"{settings.last.name}.{os.getpid()}")
        with open_private(draft) as out:
            out.write(str(folder.resolve()))
        draft.replace(settings.last)


def _last(settings: Settings) -> Iterator[Path]:
    with contextlib.suppress(OSError, ValueError):
        folder = Path(settings.last.read_text("utf-8").strip())
        if folder.is_absolute() and folder.is_dir():
            yield folder
