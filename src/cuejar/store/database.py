"""Opening the data folder's database: SQLite in WAL mode, brought up to date by Alembic.

``synchronous=NORMAL``: a commit survives the end of the process at any moment; only a power cut can take the last few
commits, and redemptions among them are asked of the channel again on the next connect.
"""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.migration import MigrationContext
from alembic.script import ScriptDirectory
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session, sessionmaker

from cuejar.settings import CannotStart

FILE = "cue-jar.sqlite"


def _config(url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def open_database(folder: Path) -> sessionmaker[Session]:
    """Opens (or makes) the database of a data folder and brings its tables up to date.

    Raises:
        CannotStart: the file is no database, is locked, or was written by a newer Cue Jar.
    """
    path = folder / FILE
    url = f"sqlite:///{path}"
    engine = create_engine(url, connect_args={"timeout": 10})

    @event.listens_for(engine, "connect")
    def _pragmas(connection: object, _: object) -> None:
        cursor = connection.cursor()  # type: ignore[attr-defined]
        for pragma in ("journal_mode=WAL", "synchronous=NORMAL", "foreign_keys=ON", "busy_timeout=10000"):
            cursor.execute(f"PRAGMA {pragma}")
        cursor.close()

    config = _config(url)
    try:
        _refuse_newer(engine, config, path)
        command.upgrade(config, "head")
    except DatabaseError as error:
        raise CannotStart(f"{path} cannot be read as a database: {error.orig}. Move it away to begin anew.") from error
    return sessionmaker(engine, expire_on_commit=False)


def _refuse_newer(engine: Engine, config: Config, path: Path) -> None:
    known = {script.revision for script in ScriptDirectory.from_config(config).walk_revisions()}
    with engine.connect() as connection:
        current = MigrationContext.configure(connection).get_current_revision()
    if current is not None and current not in known:
        raise CannotStart(f"{path} was written by a newer Cue Jar. Install that version, or choose another --data.")
