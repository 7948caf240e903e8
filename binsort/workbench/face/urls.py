"""Addresses of the shop's name and words."""

from django.urls import path

from . import views

urlpatterns = [
    path("shop-face/", views.ShopFacePage.as_view(), name="shop-face"),
]
