"""Addresses of the rack to start with."""

from django.urls import path

from . import views

urlpatterns = [path("racks/start/", views.Start.as_view(), name="start")]
