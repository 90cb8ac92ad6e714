"""Django settings; what differs from one machine to the next comes from the environment."""

from __future__ import annotations

import os
from pathlib import Path
from urllib.parse import unquote, urlsplit

ROOT = Path(__file__).resolve().parents[3]
_DATABASE = urlsplit(
    os.environ.get("KAIGATA_DATABASE", "postgresql://kaigata@127.0.0.1:5543/kaigata")
)

SECRET_KEY = os.environ.get("KAIGATA_SECRET", "only-for-tests-and-tools")
DEBUG = False
ALLOWED_HOSTS = os.environ.get("KAIGATA_HOSTS", "127.0.0.1,localhost").split(",")
ROOT_URLCONF = "kaigata.shop.urls"
WSGI_APPLICATION = "kaigata.shop.wsgi.application"
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"
USE_TZ = True
TIME_ZONE = "UTC"

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "procrastinate.contrib.django",
    "rest_framework",
    "drf_spectacular",
    "kaigata.shop.apps.ShopConfig",
]
MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "kaigata.shop.trail.KeepTrail",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]
DATABASES = {
    "default": {
        "ENGINE": "django.db.backends.postgresql",
        "NAME": _DATABASE.path.lstrip("/"),
        "USER": unquote(_DATABASE.username or ""),
        "PASSWORD": unquote(_DATABASE.password or ""),
        "HOST": _DATABASE.hostname or "127.0.0.1",
        "PORT": str(_DATABASE.port or 5432),
        "ATOMIC_REQUESTS": True,
    }
}

CACHES = {
    "default": {
        "BACKEND": "django.core.cache.backends.locmem.LocMemCache",
        "OPTIONS": {"MAX_ENTRIES": 20_000},
    }
}
"""What a process worked out and would work out the same again."""

FILE_LIMIT = 64 * 2**20
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 2**20
FILE_UPLOAD_MAX_MEMORY_SIZE = 8 * 2**20

WEB_DIST = ROOT / "web" / "dist"
STATIC_URL = "/static/"
WHITENOISE_ROOT = WEB_DIST if WEB_DIST.is_dir() else None
WHITENOISE_INDEX_FILE = True

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": f"django.contrib.auth.password_validation.{name}"}
    for name in (
        "UserAttributeSimilarityValidator",
        "MinimumLengthValidator",
        "CommonPasswordValidator",
    )
]
REST_FRAMEWORK = {
    "DEFAULT_AUTHENTICATION_CLASSES": ["kaigata.shop.authentication.SignedInSession"],
    "DEFAULT_PERMISSION_CLASSES": ["kaigata.shop.permissions.MayDo"],
    "DEFAULT_RENDERER_CLASSES": ["rest_framework.renderers.JSONRenderer"],
    "DEFAULT_PARSER_CLASSES": [
        "rest_framework.parsers.JSONParser",
        "rest_framework.parsers.MultiPartParser",
    ],
    "DEFAULT_SCHEMA_CLASS": "drf_spectacular.openapi.AutoSchema",
    "EXCEPTION_HANDLER": "kaigata.shop.problems.answer_problem",
}
SPECTACULAR_SETTINGS = {
    "TITLE": "Kaigata",
    "VERSION": "1",
    "OAS_VERSION": "3.1.0",
    "DESCRIPTION": "From finished bent parts to blanks, nests and cutting programs.",
    "SERVE_INCLUDE_SCHEMA": False,
    "SERVE_PERMISSIONS": ["rest_framework.permissions.IsAuthenticated"],
    # The same two words are a side of the outline and a side of a solid's faces.
    "ENUM_NAME_OVERRIDES": {
        "InOrOutsideEnum": ["inside", "outside"],
        "InOrOutEnum": ["in", "out"],
    },
    "POSTPROCESSING_HOOKS": [
        "drf_spectacular.hooks.postprocess_schema_enums",
        "kaigata.shop.problems.declare_problems",
    ],
}

LOGGING = {
    "version": 1,
    "disable_existing_loggers": False,
    "formatters": {"line": {"format": "%(asctime)s %(levelname)s %(name)s: %(message)s"}},
    "handlers": {"console": {"class": "logging.StreamHandler", "formatter": "line"}},
    "root": {"handlers": ["console"], "level": os.environ.get("KAIGATA_LOG", "WARNING")},
}
