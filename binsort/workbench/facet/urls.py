"""Addresses of one facet."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/facets/<slug:key>/", views.FacetPage.as_view(), name="facet"),
    path("racks/facets/<slug:key>/order/", views.OrderBins.as_view(), name="facet-order"),
    path("racks/facets/<slug:key>/unbinned/", views.Unbinned.as_view(), name="facet-unbinned"),
]
