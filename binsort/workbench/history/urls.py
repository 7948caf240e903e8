"""Addresses of the history."""

from django.urls import path

from . import views

urlpatterns = [
    path("history/", views.History.as_view(), name="history"),
    path("history/<int:number>/take-back/", views.TakeBackEntry.as_view(), name="entry-take-back"),
    path("history/live/<int:number>/go-back/", views.GoBack.as_view(), name="go-back"),
    path("history/live/<int:number>/into-draft/", views.IntoDraft.as_view(), name="into-draft"),
]
