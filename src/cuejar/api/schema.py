"""Writes what is generated from the models: ``python -m cuejar.api.schema OPENAPI.json [FORMATS_FOLDER]``."""

import json
import sys
from pathlib import Path

from cuejar.api.app import create_app
from cuejar.core.book.formats import schemas, text

if __name__ == "__main__":
    openapi = create_app(None, 8700).openapi()
    Path(sys.argv[1]).write_text(json.dumps(openapi, ensure_ascii=False, indent=1), "utf-8")
    for folder in sys.argv[2:]:
        for name, schema in schemas().items():
            path = Path(folder) / name
            if not path.is_file() or path.read_text("utf-8") != text(schema):
                path.write_text(text(schema), "utf-8")
