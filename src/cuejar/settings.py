"""Settings: from the environment (``CUEJAR_…``), then the command line; the data folder by the system's convention."""

from __future__ import annotations

import os
import secrets
from contextlib import suppress
from pathlib import Path

from platformdirs import user_data_path, user_state_path
from pydantic import Field
from pydantic_settings import BaseSettings, SettingsConfigDict

from cuejar.platform import open_private

WEB = Path(__file__).parent / "web"
"""The built front end."""
READY = Path(__file__).parent / "demo" / "files"
"""Media that ship."""


class Settings(BaseSettings):
    """What can be set from outside. Everything else is in the book."""

    model_config = SettingsConfigDict(env_prefix="CUEJAR_")

    data: Path = Field(default_factory=lambda: user_data_path("cue-jar"), description="the data folder")
    port: int = Field(
        8700,
        ge=1,
        le=65_525,
        description="the server's port; the pads' is this plus 5, the overlays' on the network plus 6, the stand-ins' plus 10",
    )
    hands: Path = Field(
        default_factory=lambda: user_state_path("cue-jar") / "hands.json",
        description="what cuejar hands keeps: this computer's key, and what it pressed",
    )
    last: Path = Field(
        default_factory=lambda: user_state_path("cue-jar") / "last-folder",
        description="the file that says which data folder was used last, for the commands",
    )
    channel: str | None = Field(None, description="address of the channel; none: no channel is connected")
    standins: str | None = Field(None, description="host and port of the stand-ins, used for gear without an address")
    key_store: bool = Field(True, description="keep secrets in the system's key store if there is one")
    max_file_mb: int = Field(200, ge=1, le=100_000, description="maximum size of a media file, in MB")
    max_bundle_mb: int = Field(4_000, ge=1, le=1_000_000, description="maximum size of an imported file, in MB")
    max_pixels: int = Field(50_000_000, ge=1, description="maximum size of a picture, in pixels")
    snapshot_every: int = Field(2_000, ge=1, description="journal entries between two snapshots of the engine")
    orders: Path | None = Field(
        None,
        description="write every order to this file, one per line, for debugging",
    )
    recording: Path | None = Field(
        None,
        description="a sound file (WAV, 16 kHz, mono) that is heard in place of the microphone, for trying phrases",
    )
    seed: int = Field(1, description="the seed of all draws and rolls")

    pads_cert: Path | None = Field(None, description="a certificate (PEM) for pads on other devices; none: plain HTTP")
    pads_key: Path | None = Field(None, description="its key (PEM)")

    @property
    def pads_port(self) -> int:
        return self.port + 5

    @property
    def overlays_port(self) -> int:
        return self.port + 6

    @property
    def standins_port(self) -> int:
        return self.port + 10


class CannotStart(Exception):
    """Cue Jar cannot start; the text is the one line to show."""


TOKEN_LENGTH = 32


def token_of(folder: Path) -> str:
    """Returns the token of a data folder, which a browser's changes carry; makes one if there is none."""
    path = folder / "token"
    with suppress(OSError):
        there = path.read_text("ascii").strip()
        if len(there) == TOKEN_LENGTH:
            return there
    token = secrets.token_hex(TOKEN_LENGTH // 2)
    with suppress(OSError), open_private(path) as out:
        out.write(token)
    return token


def prepare_data_folder(path: Path) -> Path:
    """Makes sure that the data folder exists and can be written.

    Raises:
        CannotStart: it can't.
    """
    path = path.expanduser()
    try:
        path.mkdir(parents=True, exist_ok=True)
        probe = path / ".writable"
        probe.write_text("")
        probe.unlink()
    except OSError as error:
        reason = os.strerror(error.errno) if error.errno else str(error)
        raise CannotStart(f"The data folder {path} can’t be written: {reason}. Choose another with --data.") from error
    return path
