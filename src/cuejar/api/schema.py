"""Prints the OpenAPI of the server, for the types of the pages: ``python -m cuejar.api.schema``."""

import json

from cuejar.api.app import create_app

if __name__ == "__main__":
    print(json.dumps(create_app(None, 8700).openapi(), ensure_ascii=False, indent=1))
