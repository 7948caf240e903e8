"""Addresses of *Add a facet*."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/add/", views.Add.as_view(), name="rack-add"),
]
