"""Addresses of one facet."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/facets/<slug:key>/", views.FacetPage.as_view(), name="facet"),
    path("racks/facets/<slug:key>/shoppers/", views.Shoppers.as_view(), name="facet-shoppers"),
    path("racks/facets/<slug:key>/reading/", views.Reading.as_view(), name="facet-reading"),
    path("racks/facets/<slug:key>/read/", views.ActOnReading.as_view(), name="facet-read"),
    path("racks/facets/<slug:key>/texts/", views.WriteAnew.as_view(), name="facet-text"),
    path("racks/facets/<slug:key>/act/", views.Act.as_view(), name="facet-act"),
    path("racks/facets/<slug:key>/numbers/", views.Numbers.as_view(), name="facet-numbers"),
    path("racks/facets/<slug:key>/order/", views.OrderBins.as_view(), name="facet-order"),
    path("racks/facets/<slug:key>/unbinned/", views.Unbinned.as_view(), name="facet-unbinned"),
]
