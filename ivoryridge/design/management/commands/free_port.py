"""Print the wanted port if it is free, else the next free one."""

from __future__ import annotations

import socket
from typing import Any

from django.core.management.base import BaseCommand


class Command(BaseCommand):
    help = "Print a free TCP port on this machine, from the wanted one upward."

    def add_arguments(self, parser: Any) -> None:
        parser.add_argument("wanted", type=int)

    def handle(self, *args: Any, **options: Any) -> None:
        for port in range(options["wanted"], options["wanted"] + 200):
            with socket.socket() as s:
                s.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
                try:
                    s.bind(("127.0.0.1", port))
                except OSError:
                    continue
            self.stdout.write(str(port))
            return
        raise SystemExit("No free port was found.")
