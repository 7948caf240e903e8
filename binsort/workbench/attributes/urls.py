"""Addresses of the dictionary."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/attributes/", views.Attributes.as_view(), name="attributes"),
    path("catalogue/attributes/order/", views.AttributesOrder.as_view(), name="attributes-order"),
    path("catalogue/attributes/<int:number>/", views.AttributePage.as_view(), name="attribute"),
    path("catalogue/attributes/<int:number>/delete/", views.AttributeDelete.as_view(), name="attribute-delete"),
    path("catalogue/attributes/<int:number>/values/", views.Values.as_view(), name="attribute-values"),
]
