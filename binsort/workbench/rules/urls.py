"""Addresses of *Show when*."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/facets/<slug:key>/when/", views.When.as_view(), name="facet-when"),
]
