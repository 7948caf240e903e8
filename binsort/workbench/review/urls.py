"""Addresses of *Review*, of what goes live when, and of the secret links."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/review/", views.Review.as_view(), name="review"),
    path("racks/review/take-back/", views.TakeBack.as_view(), name="review-take-back"),
    path("racks/put-live/", views.PutLive.as_view(), name="put-live"),
    path("racks/schedule/", views.Scheduling.as_view(), name="schedule"),
    path("racks/call-off/", views.CallOff.as_view(), name="call-off"),
    path("racks/draft-link/", views.MakeLink.as_view(), name="draft-link"),
    path("racks/draft-link/<int:number>/end/", views.EndLink.as_view(), name="draft-link-end"),
]
