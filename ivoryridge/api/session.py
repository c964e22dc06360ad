"""Signing in and out."""

from __future__ import annotations

from axes.handlers.proxy import AxesProxyHandler
from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.http import HttpRequest, HttpResponse
from django.middleware.csrf import get_token
from ninja import Router
from ninja.utils import check_csrf

from ivoryridge.design.forms.common import Session
from ivoryridge.design.refusals import NotAllowed, TooOften

from .answers import json_answer
from .rules import signed_in
from .schemas import SignIn

router = Router()


@router.get("/session", auth=None, response=Session)
def who(request: HttpRequest) -> HttpResponse:
    """The person of this session, or null; also sets the CSRF cookie."""
    get_token(request)
    user = request.user
    return json_answer({"username": user.get_username() if user.is_authenticated else None})


@router.post("/session", auth=None, response=Session)
def sign_in(request: HttpRequest, given: SignIn) -> HttpResponse:
    """Needs the CSRF token as everything else does; after some wrong passwords for a name from an address there is a pause."""
    if check_csrf(request) is not None:
        raise NotAllowed("csrf", "This page is too old to sign in from. Load it again.")
    if not AxesProxyHandler.is_allowed(request, {"username": given.username}):
        pause = settings.AXES_COOLOFF_TIME.total_seconds() / 60
        raise TooOften(
            "too-often",
            f"{settings.AXES_FAILURE_LIMIT} wrong passwords for this name came from here. Try again in {pause:.0f} minutes.",
        )
    user = authenticate(request, username=given.username, password=given.password)
    if user is None:
        raise NotAllowed("sign-in-failed", "This name and password do not belong together. Check both; capitals count.")
    login(request, user)
    return json_answer({"username": user.get_username(), "token": get_token(request)})


@router.delete("/session", auth=signed_in, response=Session)
def sign_out(request: HttpRequest) -> HttpResponse:
    logout(request)
    return json_answer({"username": None})
