"""Signing in."""

from django.contrib.auth.views import LoginView


class SignIn(LoginView):
    """The owner's way in; wrong passwords are limited in number."""

    template_name = "registration/login.html"
    redirect_authenticated_user = True
