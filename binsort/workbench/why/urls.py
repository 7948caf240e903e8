"""Addresses of reasons."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/why/", views.WhyOf.as_view(), name="why-of"),
    path("racks/of/<slug:rack>/why/", views.Why.as_view(), name="why"),
]
