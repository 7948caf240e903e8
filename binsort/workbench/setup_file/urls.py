"""Addresses of the file of the set-up."""

from django.urls import path

from . import views

urlpatterns = [
    path("racks/file/", views.SetupFile.as_view(), name="setup-file"),
    path("racks/file/out/", views.SetupOut.as_view(), name="setup-out"),
    path("racks/file/master/", views.Master.as_view(), name="setup-master"),
]
