"""Derived results live in a data base of their own, which may be deleted at any time."""

from typing import Any

DERIVED = {"derivedresult"}


class DerivedRouter:
    def db_for_read(self, model: Any, **_: Any) -> str | None:
        return "derived" if model._meta.model_name in DERIVED else None

    db_for_write = db_for_read

    def allow_migrate(self, db: str, app_label: str, model_name: str | None = None, **_: Any) -> bool:
        return (model_name in DERIVED) == (db == "derived") if model_name else db == "default"
