"""Tell what is wrong with this installation."""

from __future__ import annotations

import sys
from typing import Any

from django.core.management.base import BaseCommand

from ivoryridge.design.doctor import examine


class Command(BaseCommand):
    help = "Tell what is wrong with this installation, and what helps."
    requires_system_checks: list[str] = []  # it tells itself what they find

    def handle(self, *_: Any, **__: Any) -> None:
        told = examine()
        for t in told:
            self.stdout.write(f"{'  ' if t.well else '! '}{t.about}: {t.said}")
        wrong = sum(not t.well for t in told)
        self.stdout.write("" if wrong else "All is well.")
        if wrong:
            self.stdout.write(f"{wrong} thing{'s' if wrong > 1 else ''} to look at.")
            sys.exit(1)
