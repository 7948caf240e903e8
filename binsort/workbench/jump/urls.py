"""Addresses of jumping."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/jump/", views.Jump.as_view(), name="jump"),
]
