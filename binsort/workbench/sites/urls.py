"""Addresses of other sites."""

from django.urls import path

from . import views

urlpatterns = [
    path("listings/sites/", views.Sites.as_view(), name="sites"),
    path("listings/sites/<int:number>/end/", views.SiteEnd.as_view(), name="site-end"),
]
