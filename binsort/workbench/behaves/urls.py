"""Addresses of *How it behaves*."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/of/<str:rack>/behaves/", views.Behaves.as_view(), name="rack-behaves"),
]
