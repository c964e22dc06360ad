"""A demo server of its own on a free port, for benchmarks and pictures."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
# without a graphics card: WebGL is computed, and the page is put together without it, as Chromium does on a computer that has none.
# Put together through a computed card, each picture of 1280 x 800 takes several times the processor's time, whatever changed in it.
FLAGS = [
    "--no-sandbox",
    "--use-angle=swiftshader",
    "--enable-unsafe-swiftshader",
    "--disable-gpu-compositing",
    "--disable-gpu-rasterization",
    "--disable-accelerated-2d-canvas",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


@contextmanager
def demo_server(prepare: str = "") -> Iterator[str]:
    """Address of a running demo; its data are made anew and thrown away. ``prepare``: a module run on them first."""
    with tempfile.TemporaryDirectory() as data:
        environment = {
            **os.environ,
            "IVORY_MODE": "demo",
            "IVORY_DATA": data,
            "PYTHONPATH": str(ROOT),
            "DJANGO_SETTINGS_MODULE": "ivoryridge.config.settings",
            "OPENBLAS_NUM_THREADS": "1",
        }
        manage = [sys.executable, "-m", "ivoryridge.manage"]
        for command in (["migrate", "-v", "0"], ["migrate", "-v", "0", "--database", "derived"], ["load_demo"]):
            subprocess.run([*manage, *command], cwd=ROOT, env=environment, check=True, stdout=subprocess.DEVNULL)
        if prepare:
            subprocess.run([sys.executable, "-m", prepare], cwd=ROOT, env=environment, check=True)
        port = subprocess.run(
            [*manage, "free_port", "8400"], cwd=ROOT, env=environment, check=True, capture_output=True, text=True
        ).stdout.strip()
        server = subprocess.Popen([sys.executable, "-m", "ivoryridge.serve", f"127.0.0.1:{port}"], cwd=ROOT, env=environment)
        try:
            address = f"http://127.0.0.1:{port}"
            for _ in range(120):
                try:
                    urllib.request.urlopen(f"{address}/api/session", timeout=2).read()
                    break
                except OSError:
                    time.sleep(0.25)
            yield address
        finally:
            server.terminate()
            server.wait(20)
