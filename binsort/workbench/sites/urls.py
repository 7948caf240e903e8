"""Addresses of other sites."""

from django.urls import path

from . import views

urlpatterns = [
    path("listings/sites/", views.Sites.as_view(), name="sites"),
    path("listings/sites/add/", views.EmbedAdd.as_view(), name="embed-add"),
    path("listings/sites/<int:number>/end/", views.SiteEnd.as_view(), name="site-end"),
    path("listings/sites/of/<slug:name>/", views.EmbedPage.as_view(), name="embed"),
    path("listings/sites/of/<slug:name>/delete/", views.EmbedDelete.as_view(), name="embed-delete"),
]
