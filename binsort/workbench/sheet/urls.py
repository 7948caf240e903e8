"""Addresses of the catalogue sheet."""

from django.urls import path

from . import views

urlpatterns = [
    path("catalogue/", views.Catalogue.as_view(), name="catalogue"),
    path("catalogue/head/", views.Head.as_view(), name="catalogue-head"),
    path("catalogue/columns/", views.Columns.as_view(), name="catalogue-columns"),
    path("catalogue/cell/", views.CellEdit.as_view(), name="catalogue-cell"),
    path("catalogue/suggest/", views.Suggest.as_view(), name="catalogue-suggest"),
    path("catalogue/many/", views.Bulk.as_view(), name="catalogue-bulk"),
    path("catalogue/changes/<int:number>/undo/", views.TakeBack.as_view(), name="take-back"),
    path("catalogue/changes/<int:number>/redo/", views.DoAgain.as_view(), name="do-again"),
    path("catalogue/take-out/<int:number>/file/", views.TakenOut.as_view(), name="taken-out"),
    path("catalogue/take-out/<slug:form>/", views.TakeOut.as_view(), name="take-out"),
]
