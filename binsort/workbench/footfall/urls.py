"""Addresses of footfall."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/of/<slug:rack>/footfall/", views.Footfall.as_view(), name="footfall"),
    path("racks/footfall/switch/", views.FootfallSwitch.as_view(), name="footfall-switch"),
]
