"""Sessions: who is signed in."""

from __future__ import annotations

from django.contrib.auth import authenticate, login, logout
from django.middleware.csrf import get_token
from drf_spectacular.utils import extend_schema
from pydantic import BaseModel
from rest_framework.authentication import SessionAuthentication
from rest_framework.exceptions import AuthenticationFailed
from rest_framework.permissions import AllowAny
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from kaigata.shop.api.answers import answer, read
from kaigata.shop.services.people import initials_of, rights_of

__all__ = ["SessionView"]


class SignIn(BaseModel):
    """Name and password."""

    user: str
    password: str


class Who(BaseModel):
    """Who is signed in, and what they may do; nobody when ``user`` is empty."""

    user: str
    name: str
    initials: str
    rights: list[str]


class SessionView(APIView):
    """Sign in, look who is signed in, sign out."""

    permission_classes = (AllowAny,)

    @extend_schema(responses=Who, operation_id="session_show")
    def get(self, request: Request) -> Response:
        """Tell who is signed in, and set the cookie against forged requests."""
        get_token(request)
        return answer(_who(request.user))

    @extend_schema(request=SignIn, responses=Who, operation_id="session_begin")
    def post(self, request: Request) -> Response:
        """Sign in."""
        self.check_forgery(request)
        asked = read(SignIn, request)
        user = authenticate(request, username=asked.user, password=asked.password)
        if user is None:
            raise AuthenticationFailed("The name or the password is wrong")
        login(request, user)
        return answer(_who(user))

    @extend_schema(request=None, responses=Who, operation_id="session_end")
    def delete(self, request: Request) -> Response:
        """Sign out."""
        logout(request)
        return answer(_who(request.user))

    def check_forgery(self, request: Request) -> None:
        """Refuse a sign-in sent from another site; the framework checks only signed-in ones."""
        SessionAuthentication().enforce_csrf(request)


def _who(user: object) -> Who:
    if not getattr(user, "is_authenticated", False):
        return Who(user="", name="", initials="", rights=[])
    name = user.get_full_name() or user.username
    return Who(user=user.username, name=name, initials=initials_of(user), rights=rights_of(user))
