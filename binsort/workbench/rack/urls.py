"""Addresses of the rack view."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/", views.Rack.as_view(), name="rack"),
    path("racks/of/<str:rack>/", views.Rack.as_view(), name="rack-of"),
    path("racks/order/", views.Reorder.as_view(), name="rack-order"),
    path("racks/undo/", views.Undo.as_view(), name="undo"),
    path("racks/redo/", views.Redo.as_view(), name="redo"),
    path("racks/facets/<slug:key>/move/", views.Move.as_view(), name="facet-move"),
    path("racks/facets/<slug:key>/remove/", views.Remove.as_view(), name="facet-remove"),
]
