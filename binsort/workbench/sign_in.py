"""Signing in."""

from time import time
from typing import Any

from django.contrib.auth.signals import user_logged_in
from django.contrib.auth.views import LoginView
from django.dispatch import receiver
from django.http import HttpRequest

from .frame.views import SIGNED_IN


class SignIn(LoginView):
    """The owner's way in; wrong passwords are limited in number."""

    template_name = "registration/login.html"
    redirect_authenticated_user = True


@receiver(user_logged_in)
def note_when(sender: Any, request: HttpRequest, **given: Any) -> None:
    """Keep with the session when it began: who is signed out everywhere is signed out of those from before."""
    request.session[SIGNED_IN] = time()
