"""Load the demo project once; a second call leaves it as it is."""

from __future__ import annotations

from typing import Any

from django.core.management.base import BaseCommand

from ivoryridge.design.demo.load import load_demo


class Command(BaseCommand):
    help = "Load the demo project Orrowmere Link and its people."

    def handle(self, *args: Any, **options: Any) -> None:
        project = load_demo()
        self.stdout.write(f"The demo project '{project.name}' is there.")
