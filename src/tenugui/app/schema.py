"""Write the API's schema, from which the front end's types are made."""

from __future__ import annotations

import sys
from pathlib import Path

import orjson

from .main import make_app

if __name__ == "__main__":
    Path(sys.argv[1]).write_bytes(orjson.dumps(make_app(None).openapi(), option=orjson.OPT_INDENT_2))
