"""Addresses of *Listings*."""

from django.urls import path

from . import views

urlpatterns = [
    path("listings/", views.Listings.as_view(), name="placing"),
]
