"""The API's schema as a file, from which the screen's types are made: ``python -m venzo.api.schema >
openapi.json``.
"""

from __future__ import annotations

import json
import tempfile
from pathlib import Path

from pydantic import JsonValue

from venzo.api.app import make_app
from venzo.store.store import Store


def _bare(value: JsonValue) -> JsonValue:
    """A schema without its words, which the types of the screen do not need."""
    if isinstance(value, dict):
        return {
            k: _bare(v)
            for k, v in value.items()
            if not (k in ("description", "title", "summary") and isinstance(v, str))
        }
    return [_bare(v) for v in value] if isinstance(value, list) else value


def schema() -> dict[str, JsonValue]:
    """The OpenAPI schema; it needs no shop."""
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        found = make_app(store).openapi()
        store.close()
    return found


if __name__ == "__main__":
    print(
        json.dumps(
            _bare(
                {
                    "openapi": "3.1.0",
                    "info": {"title": "Venzo", "version": "0"},
                    "paths": {},
                    "components": schema()["components"],
                }
            ),
            indent=1,
        )
    )
