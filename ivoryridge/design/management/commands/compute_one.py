"""Bring the data of ``IVORY_DATA`` to this version's tables and compute one road: whether a copy is worth anything."""

from __future__ import annotations

from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand

from ivoryridge.design.backup import computed


class Command(BaseCommand):
    def handle(self, **_: Any) -> None:
        for database in ("default", "derived"):
            call_command("migrate", verbosity=0, database=database)
        self.stdout.write(computed())
