"""Addresses of what is tried."""

from django.urls import path

from . import views

urlpatterns = [path("racks/of/<slug:rack>/what-if/", views.WhatIf.as_view(), name="what-if")]
