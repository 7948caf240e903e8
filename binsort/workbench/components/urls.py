"""Addresses of the components."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/components/", views.Components.as_view(), name="components"),
]
