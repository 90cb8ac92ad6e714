"""How a request says who sent it."""

from __future__ import annotations

from drf_spectacular.extensions import OpenApiAuthenticationExtension
from rest_framework.authentication import SessionAuthentication
from rest_framework.request import Request

__all__ = ["SignedInSession", "SignedInSessionScheme"]


class SignedInSession(SessionAuthentication):
    """Sessions that answer 401, not 403, when nobody is signed in."""

    def authenticate_header(self, request: Request) -> str:
        """Name the scheme, which makes the answer a 401."""
        return "Session"


class SignedInSessionScheme(OpenApiAuthenticationExtension):
    """How the schema names the session."""

    target_class = SignedInSession
    name = "session"

    def get_security_definition(self, auto_schema: object) -> dict[str, str]:
        """Return the cookie that carries it."""
        return {"type": "apiKey", "in": "cookie", "name": "sessionid"}
