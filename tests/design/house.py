"""The whole house as processes of their own: the server and the worker over data that begin empty, and persons who use them."""

from __future__ import annotations

import http.cookiejar
import json
import os
import signal
import socket
import subprocess
import sys
import urllib.error
import urllib.request
from pathlib import Path
from time import monotonic, sleep
from typing import Any

__all__ = ["House", "Person"]

ROOT = Path(__file__).resolve().parents[2]


class House:
    """``quick``: what is patched in both processes before they start, e.g. shorter times."""

    def __init__(self, data: Path, quick: str = "") -> None:
        self.environment = {
            **os.environ, "IVORY_MODE": "demo", "IVORY_DATA": str(data), "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
            "OPENBLAS_NUM_THREADS": "1", "PYTHONPATH": str(ROOT),
        }  # fmt: skip
        self.quick = quick
        for database in ("default", "derived"):
            self.manage("migrate", "-v", "0", "--database", database)
        made = "from django.contrib.auth.models import User; User.objects.create_user('ida', password='correct horse')"
        self.manage("shell", "-v", "0", "-c", made)
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.place = f"127.0.0.1:{free.getsockname()[1]}"
        self.address = f"http://{self.place}"
        self.running: dict[str, subprocess.Popen[str]] = {}

    def manage(self, *words: str) -> None:
        subprocess.run([sys.executable, "-m", "ivoryridge.manage", *words], cwd=ROOT, env=self.environment, check=True)

    def ask(self, script: str) -> Any:
        """What a script prints as JSON that reads the data as they are now."""
        begin = "import django; django.setup(); import json; from ivoryridge.design.models import *\n"
        done = subprocess.run(
            [sys.executable, "-c", begin + script], cwd=ROOT, env=self.environment, check=True, stdout=subprocess.PIPE, text=True
        )
        return json.loads(done.stdout)

    def start(self, which: str) -> None:
        django = "import django; django.setup()\n" if which == "worker" else ""
        run = {
            "web": f"import ivoryridge.config.asgi as door, ivoryridge.serve as serve\n{self.quick}\nserve.serve('{self.place}')",
            "worker": f"{self.quick}\nfrom django.core.management import call_command\n"
            "call_command('worker', interval=0.1, queue_name='*')",
        }[which]
        self.running[which] = subprocess.Popen(
            [sys.executable, "-c", django + run], cwd=ROOT, env=self.environment, text=True, stderr=subprocess.DEVNULL
        )

    def await_web(self) -> None:
        end = monotonic() + 120
        while True:
            try:
                urllib.request.urlopen(f"{self.address}/api/session", timeout=5).read()
                return
            except OSError:
                assert monotonic() < end and self.running["web"].poll() is None
                sleep(0.05)

    def kill(self, which: str) -> None:
        self.running[which].send_signal(signal.SIGKILL)
        self.running.pop(which).wait()

    def stop(self) -> None:
        for process in self.running.values():
            process.terminate()
        for process in self.running.values():
            process.wait(60)


class Person:
    """Somebody who is signed in as the page does it."""

    def __init__(self, house: House) -> None:
        self.house, self.jar = house, http.cookiejar.CookieJar()
        self.opener = urllib.request.build_opener(urllib.request.HTTPCookieProcessor(self.jar))
        self.ask("GET", "/session")
        self.ask("POST", "/session", {"username": "ida", "password": "correct horse"})

    def ask(self, method: str, path: str, body: Any = None, form: tuple[str, bytes] | None = None) -> Any:
        """The answer's JSON; raises OSError where none comes (also as HTTPError, with what the server says)."""
        token = next((str(c.value) for c in self.jar if c.name == "csrftoken"), "")
        headers = {"X-CSRFToken": token}
        data = None
        if form is not None:
            name, content = form
            headers["Content-Type"] = "multipart/form-data; boundary=edge"
            data = (
                f'--edge\r\nContent-Disposition: form-data; name="file"; filename="{name}"\r\n'
                "Content-Type: application/octet-stream\r\n\r\n"
            ).encode() + content + b"\r\n--edge--\r\n"  # fmt: skip
        elif body is not None:
            headers["Content-Type"] = "application/json"
            data = json.dumps(body).encode()
        request = urllib.request.Request(f"{self.house.address}/api{path}", data, headers, method=method)
        return json.load(self.opener.open(request, timeout=60))
