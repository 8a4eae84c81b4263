"""Writes what is generated from the models and tables.

``python -m cuejar.api.schema OPENAPI.json KINDS.ts FORMATS_FOLDER WIRES_FOLDER``
"""

import json
import sys
from pathlib import Path

from cuejar.api.app import create_app
from cuejar.core.book.book import DEFAULT_LANE, Book
from cuejar.core.book.formats import schemas, text
from cuejar.core.kinds.gear import GEAR_KINDS
from cuejar.core.kinds.table import KINDS
from cuejar.core.rules.door import CHECKS
from cuejar.core.words.names import AIR, ENTRIES, ROLES
from cuejar.wires.table import schemas as wire_schemas


def kinds() -> str:
    """The tables of kinds for the web, as TypeScript."""
    beats = {
        kind.name: {
            "way": kind.way,
            "output": kind.output,
            "gear": kind.gear,
            "seen": kind.is_seen,
            "heard": kind.is_heard,
        }
        for kind in KINDS.values()
    }
    gear = {
        kind.name: {
            "title": kind.title,
            "mark": kind.mark,
            "scheme": kind.scheme,
            "secret": kind.secret,
            "tells": kind.tells,
            "many": kind.many,
        }
        for kind in GEAR_KINDS.values()
    }
    checks = {name: check.title for name, check in CHECKS.items()}
    models = sorted({"Book", *Book.model_json_schema()["$defs"]})
    return "".join(
        [
            "/** Made from the tables of the core; changed there. */\n\n",
            f"export const BEAT_KINDS = {json.dumps(beats, indent=2)} as const\n",
            "export type BeatKindName = keyof typeof BEAT_KINDS\n\n",
            f"export const GEAR_KINDS = {json.dumps(gear, indent=2)} as const\n",
            "export type GearKindName = keyof typeof GEAR_KINDS\n\n",
            f"export const DOOR_CHECKS: Record<string, string> = {json.dumps(checks, indent=2, ensure_ascii=False)}\n\n",
            f"export const ROLE_NAMES: Record<string, string> = {json.dumps(ROLES, indent=2)}\n\n",
            f"export const ENTRY_NAMES = {json.dumps(ENTRIES, indent=2)} as const\n\n",
            f"export const AIR_NAMES = {json.dumps(AIR, indent=2)} as const\n\n",
            "/** Every model that a book is made of. */\n",
            f"export type BookModel = {' | '.join(repr(model) for model in models)}\n\n",
            f"export const DEFAULT_LANE = {DEFAULT_LANE.model_dump_json(indent=2)} as const\n",
        ]
    )


def write(path: Path, content: str) -> None:
    """Writes a file if its content differs."""
    if not path.is_file() or path.read_text("utf-8") != content:
        path.write_text(content, "utf-8")


if __name__ == "__main__":
    openapi = create_app(None, 8700).openapi()
    Path(sys.argv[1]).write_text(json.dumps(openapi, ensure_ascii=False, indent=1), "utf-8")
    write(Path(sys.argv[2]), kinds())
    for folder, made in ((sys.argv[3], schemas()), (sys.argv[4], wire_schemas())):
        for name, schema in made.items():
            write(Path(folder) / name, text(schema))
