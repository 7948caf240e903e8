"""Addresses of the shop."""

from django.urls import path

from . import views

urlpatterns = [
    path("", views.Listing.as_view(), name="shop"),
    path("suggest/", views.Suggest.as_view(), name="shop-suggest"),
    path("why/<path:identity>/", views.WhyHere.as_view(), name="shop-why"),
    path("draft/leave/", views.LeaveDraft.as_view(), name="shop-leave-draft"),
    path("draft/<str:token>/", views.SeeDraft.as_view(), name="shop-draft"),
    path("c/<path:slugs>/", views.Listing.as_view(), name="shop-category"),
    path("p/<path:identity>/", views.ProductPage.as_view(), name="shop-product"),
]
