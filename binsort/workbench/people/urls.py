"""Addresses of people, of one's own account, and of the links by which they come in."""

from django.urls import path

from . import views

urlpatterns = [
    path("people/", views.People.as_view(), name="people"),
    path("people/<int:number>/", views.Person.as_view(), name="person"),
    path("people/invitations/<int:number>/end/", views.InvitationEnd.as_view(), name="invitation-end"),
    path("account/", views.Account.as_view(), name="account"),
    path("account/sign-out-everywhere/", views.SignOutEverywhere.as_view(), name="account-sign-out"),
    path("in/<str:token>/", views.ComeIn.as_view(), name="come-in"),
    path("new-password/<str:token>/", views.NewPassword.as_view(), name="new-password"),
]
