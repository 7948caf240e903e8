"""Addresses of Activity."""

from django.urls import path

from . import views

urlpatterns = [
    path("activity/", views.Activity.as_view(), name="activity"),
    path("activity/again/", views.ActivityAgain.as_view(), name="activity-again"),
    path("activity/<int:number>/cancel/", views.ActivityCancel.as_view(), name="activity-cancel"),
    path("activity/<int:number>/try-again/", views.ActivityTryAgain.as_view(), name="activity-try-again"),
]
