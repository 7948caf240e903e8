"""Addresses of one product."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/new/", views.ProductNew.as_view(), name="product-new"),
    path("catalogue/products/<path:identity>/delete/", views.ProductDelete.as_view(), name="product-delete"),
    path("catalogue/products/<path:identity>/", views.ProductPage.as_view(), name="product"),
]
