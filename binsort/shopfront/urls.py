"""Addresses of the shop."""

from django.contrib.sitemaps import views as maps
from django.urls import path

from . import views
from .sitemaps import SITEMAPS

of_the_site = [  # at fixed addresses
    path("robots.txt", views.robots, name="robots"),
    path(".well-known/gpc.json", views.privacy_control, name="privacy-control"),
    path("theme.css", views.theme, name="theme"),
    path("pictures/<slug:name>.webp", views.picture, name="picture"),
    path("sitemap.xml", maps.index, {"sitemaps": SITEMAPS, "sitemap_url_name": "sitemap"}, name="sitemaps"),
    path("sitemap-<section>.xml", maps.sitemap, {"sitemaps": SITEMAPS}, name="sitemap"),
]
urlpatterns = [
    path("", views.Listing.as_view(), name="shop"),
    path("suggest/", views.Suggest.as_view(), name="shop-suggest"),
    path("unfolded/", views.Unfolded.as_view(), name="shop-unfolded"),
    path("why/<path:identity>/", views.WhyHere.as_view(), name="shop-why"),
    path("draft/leave/", views.LeaveDraft.as_view(), name="shop-leave-draft"),
    path("draft/<str:token>/", views.SeeDraft.as_view(), name="shop-draft"),
    path("basket/", views.BasketPage.as_view(), name="shop-basket"),
    path("basket/add/", views.PutIntoBasket.as_view(), name="shop-basket-add"),
    path("basket/change/", views.ChangeBasket.as_view(), name="shop-basket-change"),
    path("c/<path:slugs>/", views.Listing.as_view(), name="shop-category"),
    path("t/<str:slug>/", views.Listing.as_view(), name="shop-tag"),
    path("p/<path:identity>/", views.ProductPage.as_view(), name="shop-product"),
]
