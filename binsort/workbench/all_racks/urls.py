"""Addresses of all racks."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/all/", views.AllRacks.as_view(), name="racks"),
    path("racks/of/<str:rack>/rename/", views.Rename.as_view(), name="rack-rename"),
    path("racks/of/<str:rack>/copy/", views.Copy.as_view(), name="rack-copy"),
    path("racks/of/<str:rack>/delete/", views.Delete.as_view(), name="rack-delete"),
    path("racks/facets/<slug:key>/apart/", views.Apart.as_view(), name="facet-apart"),
    path("racks/facets/<slug:key>/heading/", views.Heading.as_view(), name="facet-heading"),
    path("racks/facets/<slug:key>/put/", views.Put.as_view(), name="facet-put"),
]
