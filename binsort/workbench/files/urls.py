"""Addresses of files in."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/bring-in/", views.BringIn.as_view(), name="bring-in"),
    path("catalogue/bring-in/<int:number>/", views.BringFile.as_view(), name="bring-file"),
    path("catalogue/bring-in/<int:number>/refused/", views.RefusedRows.as_view(), name="bring-refused"),
    path("catalogue/bring-in/<int:number>/forget/", views.BringForget.as_view(), name="bring-forget"),
]
