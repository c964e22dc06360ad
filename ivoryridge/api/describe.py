"""The records of all answers, and of what addresses take, as an OpenAPI description: ``python -m ivoryridge.api.describe FILE``."""

from __future__ import annotations

import json
import os
import sys
from pathlib import Path
from typing import Any

__all__ = ["described"]


def described() -> dict[str, Any]:
    """Records only: no addresses, and no titles that merely repeat a name."""
    from .api import api

    whole = json.loads(json.dumps(api.get_openapi_schema()))

    def plain(value: Any, named: bool = False) -> Any:
        if isinstance(value, dict):
            kept = {k: v for k, v in value.items() if named or k != "title" or not isinstance(v, str)}
            return {k: plain(v, named=k == "properties") for k, v in kept.items()}
        return [plain(v) for v in value] if isinstance(value, list) else value

    records = plain(dict(sorted(whole["components"]["schemas"].items())), named=True)
    info = {"title": "Ivory Ridge", "version": "1"}
    return {"openapi": whole["openapi"], "info": info, "paths": {}, "components": {"schemas": records}}


if __name__ == "__main__":
    import django

    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ivoryridge.config.settings")
    django.setup()
    Path(sys.argv[1]).write_text(json.dumps(described(), indent=1), encoding="utf-8")
