"""Addresses of the category tree."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/categories/", views.Categories.as_view(), name="categories"),
    path("catalogue/categories/<int:number>/delete/", views.CategoryDelete.as_view(), name="category-delete"),
]
