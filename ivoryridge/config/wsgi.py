"""The server entry: the application, made ready to answer its first request as quickly as the later ones."""

import gc
import os
import sys
import threading

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ivoryridge.config.settings")
# a short computation must not wait 5 ms for its turn while another thread reads from a socket
sys.setswitchinterval(0.001)
application = get_wsgi_application()


def _get_ready() -> None:
    """Load the compiled kernels, then take all that is loaded out of the garbage collector's rounds."""
    from ivoryridge.design.warm import warm_kernels

    warm_kernels()
    gc.collect()
    gc.freeze()
    gc.set_threshold(20_000, 20, 50)  # answers are large and short-lived: look for circles less often


threading.Thread(target=_get_ready, name="get ready", daemon=True).start()
