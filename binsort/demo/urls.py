"""Addresses of the demo's pictures."""

from django.urls import re_path

from .views import picture

urlpatterns = [re_path(r"^(?P<kind>[a-z-]+)-(?P<tint>[0-9A-Fa-f]{6})\.svg$", picture, name="picture")]
