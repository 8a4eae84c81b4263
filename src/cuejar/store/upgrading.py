"""Tables brought up to date by Alembic. Read only where there is something to bring: it takes a while to import."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory

from cuejar.platform import make_private, put

MIGRATIONS = Path(__file__).parent / "migrations"


def config_of(url: str) -> Config:
    config = Config()
    config.set_main_option("script_location", str(MIGRATIONS))
    config.set_main_option("sqlalchemy.url", url.replace("%", "%%"))
    return config


def known() -> set[str]:
    """Returns all revisions of the tables."""
    return {script.revision for script in ScriptDirectory.from_config(config_of("")).walk_revisions()}


def new_tables(path: Path) -> None:
    """Makes an empty database."""
    command.upgrade(config_of(f"sqlite:///{path}"), "head")


def upgrade(url: str, path: Path, current: str | None) -> None:
    """Brings tables up to date, after a copy of the file was made.

    Args:
        current: their revision; None: there are none yet.
    """
    config = config_of(url)
    head = ScriptDirectory.from_config(config).get_current_head()
    before = path.with_name(f"{path.stem}.before-{head}{path.suffix}")
    # An existing copy was made by a start that was killed half way: it is the original.
    if current is not None and not before.exists():
        draft = before.with_name(before.name + ".new")
        draft.unlink(missing_ok=True)
        with closing(sqlite3.connect(path)) as source, closing(sqlite3.connect(draft)) as target:
            source.backup(target)
        make_private(draft)
        put(draft, before)
    command.upgrade(config, "head")
