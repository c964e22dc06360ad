"""The server entry."""

import os
import sys

from django.core.wsgi import get_wsgi_application

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "ivoryridge.config.settings")
# a short computation must not wait 5 ms for its turn while another thread reads from a socket
sys.setswitchinterval(0.001)
application = get_wsgi_application()
