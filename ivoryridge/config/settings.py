"""Settings. ``IVORY_MODE`` is demo, test or serve; only serve needs secrets, and it refuses to start without them."""

import os
from datetime import timedelta
from pathlib import Path

from django.core.exceptions import ImproperlyConfigured

ROOT = Path(__file__).resolve().parents[2]
MODE = os.environ.get("IVORY_MODE", "test")
DATA = Path(os.environ.get("IVORY_DATA", ROOT / "var"))

DEBUG = False
if MODE != "test":
    os.umask(0o077)  # data base files are their owner's alone
if MODE == "serve":
    SECRET_KEY = os.environ.get("IVORY_SECRET", "")
    ALLOWED_HOSTS = [h for h in os.environ.get("IVORY_HOSTS", "").split(",") if h]
    if len(SECRET_KEY) < 50:
        raise ImproperlyConfigured("Set IVORY_SECRET to a random text of at least 50 characters, and keep it.")
    if not ALLOWED_HOSTS or "*" in ALLOWED_HOSTS:
        raise ImproperlyConfigured("Set IVORY_HOSTS to the names under which the program is reached, e.g. 'roads.example.org'.")
    CSRF_TRUSTED_ORIGINS = [f"https://{h}" for h in ALLOWED_HOSTS]
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_SSL_REDIRECT = os.environ.get("IVORY_BEHIND_TLS_PROXY") != "1"
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = os.environ.get("IVORY_HSTS_ALL") == "1"  # holds for other hosts too
else:
    SECRET_KEY = "demo and tests only; serve refuses to start without a secret of its own"
    ALLOWED_HOSTS = ["127.0.0.1", "localhost", "testserver"]

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "axes",
    "csp",
    "django_tasks",
    "django_tasks_db",
    "ivoryridge.design",
]
MIDDLEWARE = [
    "ivoryridge.api.watched.named_requests",
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",  # before the files of the page, so that they carry it too
    "csp.middleware.CSPMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "ivoryridge.api.doors.bodies_that_may_come_in",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "ivoryridge.api.turns.in_turn",
    "ivoryridge.api.units.units_of_request",
]
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'", "'unsafe-inline'"],  # components set their styles as they are shown
        "img-src": ["'self'", "data:", "blob:"],
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "worker-src": ["'self'", "blob:"],
        "frame-ancestors": ["'none'"],
        "form-action": ["'self'"],
        "base-uri": ["'none'"],
    }
}

# --- signing in: so many wrong passwords for a name from an address, then a pause ---
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 8
AXES_COOLOFF_TIME = timedelta(minutes=5)
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"]]
AXES_RESET_ON_SUCCESS = True
AXES_DISABLE_ACCESS_LOG = True
SILENCED_SYSTEM_CHECKS = ["axes.W002"]  # the address for signing in says itself that there is a pause
AXES_CLIENT_IP_CALLABLE = "ivoryridge.api.doors.address_of"
BEHIND_PROXY = os.environ.get("IVORY_BEHIND_TLS_PROXY") == "1"
ROOT_URLCONF = "ivoryridge.config.urls"
WSGI_APPLICATION = "ivoryridge.config.wsgi.application"
TEMPLATES: list[dict[str, object]] = []


def _sqlite(synchronous: str) -> dict[str, object]:
    return {
        "CONN_MAX_AGE": 0 if MODE == "test" else None,  # a thread keeps its connection: opening one costs more than most queries
        "ENGINE": "django.db.backends.sqlite3",
        "OPTIONS": {
            "transaction_mode": "IMMEDIATE",
            "timeout": 20,
            "init_command": f"PRAGMA journal_mode=WAL; PRAGMA synchronous={synchronous}; PRAGMA foreign_keys=ON;",
        },
    }


DATABASES = {
    # what is acknowledged survives a failing of the power; what is derived is computed anew
    "default": {
        **_sqlite("NORMAL" if MODE == "test" else "FULL"),
        "NAME": DATA / "ivoryridge.sqlite3",
        "TEST": {"NAME": DATA / "test.sqlite3"},
    },
    "derived": {**_sqlite("NORMAL"), "NAME": DATA / "derived.sqlite3", "TEST": {"NAME": DATA / "test_derived.sqlite3"}},
}
DATABASE_ROUTERS = ["ivoryridge.design.kept.routing.DerivedRouter"]
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

TASKS = {"default": {"BACKEND": "django_tasks_db.DatabaseBackend"}}
if MODE == "test":
    TASKS = {"default": {"BACKEND": "django_tasks.backends.immediate.ImmediateBackend"}}

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 9}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]
if MODE == "test":
    PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]  # quick sign-in in tests only

STATIC_URL = "/static/"
WEB_DIST = ROOT / "web" / "dist"
WHITENOISE_ROOT = WEB_DIST
WHITENOISE_ALLOW_ALL_ORIGINS = False
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/assets/"
USE_TZ = True
TIME_ZONE = "UTC"
MEMORY_MB = float(os.environ.get("IVORY_MEMORY_MB", "500"))  # of results kept in memory by one process
STANDARDS_DIR = DATA / "standards"  # an office's own data files of limits; see docs/standards.md
LARGEST_JSON = 2_000_000  # bytes
LARGEST_UPLOAD = 401_000_000  # bytes; each reader has a limit of its own
DATA_UPLOAD_MAX_MEMORY_SIZE = LARGEST_JSON
FILE_UPLOAD_MAX_MEMORY_SIZE = 16 * 1024 * 1024
SESSION_ENGINE = "django.contrib.sessions.backends.db"  # a session ends when its row goes, in every process
CSRF_COOKIE_SAMESITE = SESSION_COOKIE_SAMESITE = "Lax"
# a line a request in serve mode, each an object with the request's name; elsewhere only what goes wrong, as plain text
LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "filters": {"named": {"()": "ivoryridge.api.naming.RequestNamed"}},
    "formatters": {
        "plain": {"format": "%(levelname)s %(name)s %(message)s"},
        "json": {
            "()": "pythonjsonlogger.json.JsonFormatter",
            "format": "%(asctime)s %(levelname)s %(name)s %(message)s %(request)s",
            "rename_fields": {"asctime": "at", "levelname": "level", "name": "of"},
        },
    },
    "handlers": {
        "console": {
            "class": "logging.StreamHandler",
            "formatter": "json" if MODE == "serve" else "plain",
            "filters": ["named"],
        }
    },
    "loggers": {
        "ivoryridge": {"handlers": ["console"], "level": "INFO"},
        "ivoryridge.requests": {"level": "INFO" if MODE == "serve" else "ERROR"},
        **({} if MODE == "test" else {"django": {"handlers": ["console"], "level": "ERROR", "propagate": False}}),
    },
}
