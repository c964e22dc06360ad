"""The worker: runs jobs one after another, and leaves a sign every few seconds that it lives."""

from __future__ import annotations

import threading
from typing import Any

from django_tasks_db.management.commands.db_worker import Command as DatabaseWorker

from ivoryridge.design.jobs import BEAT_EVERY, reap_dead_jobs, worker_lives


class Command(DatabaseWorker):
    def handle(self, **options: Any) -> None:
        over = threading.Event()

        def lives() -> None:
            worker_lives()
            while not over.wait(BEAT_EVERY):
                worker_lives()

        threading.Thread(target=lives, name="sign of life", daemon=True).start()
        reap_dead_jobs()
        try:
            super().handle(**options)
        finally:
            over.set()
