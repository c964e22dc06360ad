"""``./ivory backup FILE``: see ``design.backup``."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser

from ivoryridge.design.backup import BackupError, back_up


class Command(BaseCommand):
    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("file", type=Path)

    def handle(self, **options: Any) -> None:
        try:
            self.stdout.write(back_up(options["file"].absolute()))
        except BackupError as error:
            raise CommandError(str(error)) from error
