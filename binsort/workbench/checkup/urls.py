"""Addresses of the checkup."""

from django.urls import path

from . import views

urlpatterns = [
    path("checkup/", views.Checkup.as_view(), name="checkup"),
    path("checkup/number/", views.Number.as_view(), name="checkup-number"),
    path("checkup/mend/", views.MendWhole.as_view(), name="checkup-mend"),
    path("checkup/lead/", views.Lead.as_view(), name="checkup-lead"),
    path("checkup/leave/", views.Leave.as_view(), name="checkup-leave"),
    path("checkup/take-up/<int:number>/", views.TakeUp.as_view(), name="checkup-take-up"),
]
