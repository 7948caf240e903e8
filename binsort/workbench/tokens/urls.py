"""Addresses of tokens."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/api/", views.Api.as_view(), name="api"),
    path("catalogue/api/<int:number>/end/", views.TokenEnd.as_view(), name="token-end"),
]
