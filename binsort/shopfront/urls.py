"""Addresses of the shop."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.Listing.as_view(), name="shop"),
    path("c/<path:slugs>/", views.Listing.as_view(), name="shop-category"),
    path("p/<path:identity>/", views.ProductPage.as_view(), name="shop-product"),
]
