"""Settings, all of them by environment; ``./run`` sets what a demo and the tests need."""

import os
from pathlib import Path
from urllib.parse import unquote, urlsplit

from django.core.exceptions import ImproperlyConfigured

BASE_DIR = Path(__file__).resolve().parent.parent


def _needed(name: str) -> str:
    try:
        return os.environ[name]
    except KeyError as error:
        raise ImproperlyConfigured(f"{name} is not set. Start through ./run, or see docs/operations.md.") from error


def _database(url: str) -> dict[str, object]:
    parts = urlsplit(url)
    return {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": parts.path.removeprefix("/"),
        "USER": unquote(parts.username or ""),
        "PASSWORD": unquote(parts.password or ""),
        "HOST": parts.hostname or "",
        "PORT": str(parts.port or ""),
        "CONN_MAX_AGE": 60,
        "CONN_HEALTH_CHECKS": True,
        "TEST": {"NAME": f"test_{parts.path.removeprefix('/')}_{os.getpid()}"},
    }


SECRET_KEY = _needed("BINSORT_SECRET_KEY")
DEBUG = os.environ.get("BINSORT_DEBUG") == "1"
ALLOWED_HOSTS = os.environ.get("BINSORT_HOSTS", "127.0.0.1,localhost").split(",")
DATA_FOLDER = Path(os.environ.get("BINSORT_DATA", BASE_DIR.parent / ".data"))
DATABASES = {"default": _database(_needed("BINSORT_DATABASE_URL"))}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "django.contrib.messages",
    "django.contrib.staticfiles",
    "django.contrib.postgres",
    "django.contrib.sitemaps",
    "django.contrib.humanize",
    "corsheaders",
    "django_htmx",
    "axes",
    "csp",
    "tree_queries",
    "procrastinate.contrib.django",
    "binsort.catalog",
    "binsort.people",
    "binsort.racks",
    "binsort.tally",
    "binsort.footfall",
    "binsort.changes",
    "binsort.workbench",
    "binsort.shopfront",
    "binsort.demo",
    "binsort.project",
]

MIDDLEWARE = [
    "binsort.project.errors.LimitAddresses",
    "binsort.project.head.HeadAsGet",
    "django.middleware.security.SecurityMiddleware",
    "csp.middleware.CSPMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "corsheaders.middleware.CorsMiddleware",
    "binsort.project.limits.LimitCalls",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "django.contrib.messages.middleware.MessageMiddleware",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
    "django_htmx.middleware.HtmxMiddleware",
    "axes.middleware.AxesMiddleware",
    "binsort.project.errors.WaitForCounts",
]

CORS_URLS_REGEX = r"^/api/shop/"  # which sites may read what is there says the database: binsort.shopfront.api.sites
CORS_ALLOW_METHODS = ("GET", "HEAD", "OPTIONS")
CORS_ALLOW_HEADERS = ("accept", "content-type", "if-none-match")
CORS_EXPOSE_HEADERS = ("ETag", "Retry-After")

ROOT_URLCONF = "binsort.project.urls"
WSGI_APPLICATION = "binsort.project.wsgi.application"
TEST_RUNNER = "binsort.project.testing.Runner"

TEMPLATES = [
    {
        "BACKEND": "django.template.backends.django.DjangoTemplates",
        "DIRS": [BASE_DIR],  # a page's templates stand in its folder and are named by their path
        "APP_DIRS": True,
        "OPTIONS": {
            "context_processors": [
                "django.template.context_processors.request",
                "django.contrib.auth.context_processors.auth",
                "django.contrib.messages.context_processors.messages",
                "binsort.shopfront.face.face",
            ],
            "builtins": [
                "django.contrib.humanize.templatetags.humanize",
                "django.templatetags.i18n",
                "django.templatetags.static",
                "binsort.racks.templatetags.drawing",
                "binsort.workbench.templatetags.links",
            ],
        },
    },
]

# Sign-in: five wrong passwords from an address, for one name or several, then a wait of a quarter of an hour.
AUTHENTICATION_BACKENDS = ["axes.backends.AxesStandaloneBackend", "django.contrib.auth.backends.ModelBackend"]
AXES_FAILURE_LIMIT = 5
AXES_COOLOFF_TIME = 0.25
AXES_LOCKOUT_PARAMETERS = [["username", "ip_address"], "ip_address"]
AXES_LOCKOUT_TEMPLATE = "registration/locked.html"
AXES_HTTP_RESPONSE_CODE = 429
AXES_RESET_ON_SUCCESS = True
AXES_VERBOSE = False
AXES_CLIENT_IP_CALLABLE = "binsort.project.proxy.client_address"
LOGIN_URL = "sign-in"
LOGIN_REDIRECT_URL = "rack"
LOGOUT_REDIRECT_URL = "sign-in"
AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator", "OPTIONS": {"min_length": 10}},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

# Over HTTPS: cookies and pages go over nothing else, for a year. A proxy in front says so in a header it always sets.
HTTPS = os.environ.get("BINSORT_HTTPS") == "1"
PROXIES = int(os.environ.get("BINSORT_PROXIES", "0"))  # in front, each of which adds to X-Forwarded-For
SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = SECURE_SSL_REDIRECT = SECURE_HSTS_INCLUDE_SUBDOMAINS = SECURE_HSTS_PRELOAD = HTTPS
SECURE_HSTS_SECONDS = 365 * 86_400 if HTTPS else 0
SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https") if PROXIES else None
USE_X_FORWARDED_HOST = bool(PROXIES)
_ORIGINS = ",".join(f"https://{host}" for host in ALLOWED_HOSTS) if HTTPS else ""
CSRF_TRUSTED_ORIGINS = [origin for origin in os.environ.get("BINSORT_ORIGINS", _ORIGINS).split(",") if origin]
SESSION_COOKIE_NAME, CSRF_COOKIE_NAME = "binsort_session", "binsort_csrf"
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"
CONTENT_SECURITY_POLICY = {
    "DIRECTIVES": {
        "default-src": ["'none'"],
        "script-src": ["'self'"],
        "style-src": ["'self'"],
        "img-src": ["'self'", "https:", "data:"],  # pictures of products may be anywhere
        "font-src": ["'self'"],
        "connect-src": ["'self'"],
        "form-action": ["'self'"],
        "base-uri": ["'none'"],
        "frame-ancestors": ["'none'"],
    }
}

# How often the API may be called: by an address, and by a token. Each process lets its share through. 0: as often as anybody likes.
CALLS_A_MINUTE = int(os.environ.get("BINSORT_CALLS_A_MINUTE", "1200"))
CALLS_A_MINUTE_BY_TOKEN = int(os.environ.get("BINSORT_CALLS_A_MINUTE_BY_TOKEN", "6000"))
PROCESSES = int(os.environ.get("BINSORT_PROCESSES", "1"))  # that answer beside each other

# What happens in the shop is counted in memory and written every so many seconds; 0: only when a test says so.
CHECKUP_SECONDS = 0.03  # to look for what changed before the page of the checkup is shown; the rest follows
VISITS_SECONDS = float(os.environ.get("BINSORT_VISITS_SECONDS", "30"))  # the checkup reads what was counted this often at most
FOOTFALL_SECONDS = float(os.environ.get("BINSORT_FOOTFALL_SECONDS", "5"))

# The shop's own: money, numbers and dates are written so, and its days begin then.
LOCALE = os.environ.get("BINSORT_LOCALE", "en_GB")
CURRENCY = os.environ.get("BINSORT_CURRENCY", "GBP")  # where no price names one
LANGUAGE_CODE = "en-gb"
TIME_ZONE = os.environ.get("BINSORT_TIME_ZONE", "UTC")
USE_TZ = True

STATIC_URL = "/static/"
STATIC_ROOT = DATA_FOLDER / "static"
STORAGES = {
    "default": {"BACKEND": "django.core.files.storage.FileSystemStorage"},
    "staticfiles": {"BACKEND": "whitenoise.storage.CompressedManifestStaticFilesStorage"},
}
STATICFILES_DIRS = [(f"workbench/{folder.parent.name}", folder) for folder in sorted((BASE_DIR / "workbench").glob("*/static"))]

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "handlers": {"console": {"class": "logging.StreamHandler"}},
    "root": {"handlers": ["console"], "level": "WARNING"},
}
SILENCED_SYSTEM_CHECKS: list[str] = []

# A product with hundreds of variants is one form; a thousand products are one call of the API.
DATA_UPLOAD_MAX_NUMBER_FIELDS = 20_000
DATA_UPLOAD_MAX_MEMORY_SIZE = 32 << 20
