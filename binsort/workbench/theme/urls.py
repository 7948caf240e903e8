"""Addresses of the theme of the shop's facets."""

from django.urls import path

from . import views

urlpatterns = [
    path("shop-theme/", views.ThemePage.as_view(), name="shop-theme"),
]
