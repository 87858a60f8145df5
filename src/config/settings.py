"""Settings; the only place that reads the environment.

FAIR_REACH_MODE
    ``demo``    this machine only: the demo teacher is signed in on the loopback address
    ``deploy``  for others to use: needs a secret key and host names, HTTPS expected in front
    ``test``    the default: like deploy, for tests and development commands
"""

import os
import secrets
from contextlib import suppress
from pathlib import Path

import django
from csp.constants import NONE, SELF
from django.core.exceptions import ImproperlyConfigured

from studio.logs import configuration

SRC = Path(__file__).resolve().parent.parent
VAR = Path(os.environ.get("FAIR_REACH_DATA", SRC.parent / "var"))
DATA = SRC / "data"

MODE = os.environ.get("FAIR_REACH_MODE", "test")
if MODE not in ("demo", "deploy", "test"):
    raise ImproperlyConfigured(f"FAIR_REACH_MODE must be demo, deploy or test, got {MODE!r}")
DEMO = MODE == "demo"
DEPLOY = MODE == "deploy"
DEBUG = False

# Processes that work in the background; none in tests and commands, where work is done on the spot.
WORKERS = int(os.environ.get("FAIR_REACH_WORKERS", "0" if MODE == "test" else "2"))


def _kept_key():
    """The demo's own key, made once: what was signed before a start is good after it."""
    path = VAR / "secret-key"
    if not path.exists():
        VAR.mkdir(parents=True, exist_ok=True)
        own = VAR / f"secret-key.{os.getpid()}"
        own.touch(0o600)
        own.write_text(secrets.token_urlsafe(50))
        with suppress(FileExistsError):
            os.link(own, path)  # whole or not at all; who comes second takes the first one's
        own.unlink()
    return path.read_text()


# A process of tests or commands makes one up, and what it signed ends with it.
SECRET_KEY = os.environ.get("FAIR_REACH_SECRET_KEY", "") or (
    _kept_key() if DEMO else secrets.token_urlsafe(50)
)
ALLOWED_HOSTS = ["127.0.0.1", "localhost", "[::1]"]
if DEPLOY:
    if not os.environ.get("FAIR_REACH_SECRET_KEY"):
        raise ImproperlyConfigured("FAIR_REACH_SECRET_KEY must be set in deploy mode")
    ALLOWED_HOSTS = os.environ.get("FAIR_REACH_HOSTS", "").split()

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "csp",
    "studio",
    "jobs",
    "evidence",
    "catalogue",
    "passages",
    "bench",
    "overtones",
    "practice",
    "counting",
    "students",
]

MIDDLEWARE = [
    "studio.logs.RequestIdMiddleware",
    "django.middleware.security.SecurityMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "studio.middleware.PartsMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "studio.middleware.DemoSignInMiddleware",
    "studio.offline.NoStoreMiddleware",
    "studio.middleware.SignInMiddleware",
    "studio.zones.ZoneMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]

ROOT_URLCONF = "config.urls"
WSGI_APPLICATION = "config.wsgi.application"
TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [SRC / "templates", Path(django.__file__).parent / "forms" / "templates"],
        "APP_DIRS": False,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
            ],
            "builtins": ["catalogue.templatetags.music"],
        },
    }
]

FORM_RENDERER = "config.rendering.FormRenderer"

DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "fair-reach.sqlite3",
        # All three together: write-ahead log, locks taken at the start, and patience.
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": "PRAGMA journal_mode=WAL; PRAGMA synchronous=NORMAL; PRAGMA foreign_keys=ON;",
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in ("MinimumLengthValidator", "CommonPasswordValidator", "UserAttributeSimilarityValidator")
]

LOGIN_URL = "studio:sign-in"
LOGIN_REDIRECT_URL = "passages:list"
LOGOUT_REDIRECT_URL = "studio:sign-in"

# Errors and what bears on security: to the console in demo, to a file in deploy.
LOGGING = configuration(MODE, Path(os.environ.get("FAIR_REACH_LOG", VAR / "fair-reach.log")))

LANGUAGE_CODE = "en-gb"
TIME_ZONE = "UTC"
USE_TZ = True

STATIC_URL = "/static/"
STATICFILES_DIRS = [SRC / "static"]
if MODE == "test":
    WHITENOISE_USE_FINDERS = True  # served from the source tree: nothing to collect
else:
    STATIC_ROOT = VAR / "static"
    # Collected: named by content, so kept for good by browsers, and compressed once.
    STORAGES = {
        "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
        "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
    }

CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": [NONE],
        "script-src": [SELF],
        "style-src": [SELF],
        "font-src": [SELF],
        "img-src": [SELF],
        "connect-src": [SELF],
        "media-src": [SELF],
        "worker-src": [SELF],
        "manifest-src": [SELF],
        "form-action": [SELF],
        "frame-ancestors": [NONE],
        "base-uri": [NONE],
    }
}
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
SESSION_COOKIE_NAME = "fair_reach_session"
SESSION_COOKIE_HTTPONLY = True
CSRF_FAILURE_VIEW = "studio.views.form_expired"
if DEPLOY:
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_SSL_REDIRECT = True
    SECURE_HSTS_SECONDS = 31_536_000
    SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = True
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")

# A score may have 5 MB (core.music.notation.formats); a little room for the rest of the form.
DATA_UPLOAD_MAX_MEMORY_SIZE = 6_000_000
FILE_UPLOAD_MAX_MEMORY_SIZE = 6_000_000
# A chart may have 2,000 rows to be chosen (core.charts.chart_format), each a field.
DATA_UPLOAD_MAX_NUMBER_FIELDS = 2_100
