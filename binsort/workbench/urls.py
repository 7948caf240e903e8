"""Addresses of the owner's tool."""

from django.urls import path

from . import attributeviews, bringviews, productviews, sheetviews, views

urlpatterns = [
    path("racks/", views.Rack.as_view(), name="rack"),
    path("activity/", views.Activity.as_view(), name="activity"),
    path("activity/again/", views.ActivityAgain.as_view(), name="activity-again"),
    path("activity/<int:number>/cancel/", views.ActivityCancel.as_view(), name="activity-cancel"),
    path("racks/add/", views.Add.as_view(), name="rack-add"),
    path("racks/order/", views.Reorder.as_view(), name="rack-order"),
    path("racks/undo/", views.Undo.as_view(), name="undo"),
    path("racks/redo/", views.Redo.as_view(), name="redo"),
    path("racks/put-live/", views.PutLive.as_view(), name="put-live"),
    path("racks/components/", views.Components.as_view(), name="components"),
    path("racks/jump/", views.Jump.as_view(), name="jump"),
    path("racks/facets/<slug:key>/", views.FacetPage.as_view(), name="facet"),
    path("racks/facets/<slug:key>/move/", views.Move.as_view(), name="facet-move"),
    path("racks/facets/<slug:key>/remove/", views.Remove.as_view(), name="facet-remove"),
    path("racks/facets/<slug:key>/unbinned/", views.Unbinned.as_view(), name="facet-unbinned"),
    path("catalogue/", sheetviews.Catalogue.as_view(), name="catalogue"),
    path("catalogue/head/", sheetviews.Head.as_view(), name="catalogue-head"),
    path("catalogue/columns/", sheetviews.Columns.as_view(), name="catalogue-columns"),
    path("catalogue/cell/", sheetviews.CellEdit.as_view(), name="catalogue-cell"),
    path("catalogue/suggest/", sheetviews.Suggest.as_view(), name="catalogue-suggest"),
    path("catalogue/many/", sheetviews.Bulk.as_view(), name="catalogue-bulk"),
    path("catalogue/changes/<int:number>/undo/", sheetviews.TakeBack.as_view(), name="take-back"),
    path("catalogue/new/", productviews.ProductNew.as_view(), name="product-new"),
    path("catalogue/products/<path:identity>/delete/", productviews.ProductDelete.as_view(), name="product-delete"),
    path("catalogue/products/<path:identity>/", productviews.Product.as_view(), name="product"),
    path("catalogue/attributes/", attributeviews.Attributes.as_view(), name="attributes"),
    path("catalogue/attributes/order/", attributeviews.AttributesOrder.as_view(), name="attributes-order"),
    path("catalogue/attributes/<int:number>/", attributeviews.AttributePage.as_view(), name="attribute"),
    path("catalogue/attributes/<int:number>/delete/", attributeviews.AttributeDelete.as_view(), name="attribute-delete"),
    path("catalogue/attributes/<int:number>/values/", attributeviews.Values.as_view(), name="attribute-values"),
    path("catalogue/x2/", sheetviews.Catalogue.as_view(), name="categories"),
    path("catalogue/bring-in/", bringviews.BringIn.as_view(), name="bring-in"),
    path("catalogue/bring-in/<int:number>/", bringviews.BringFile.as_view(), name="bring-file"),
    path("catalogue/bring-in/<int:number>/refused/", bringviews.Refused.as_view(), name="bring-refused"),
    path("catalogue/bring-in/<int:number>/forget/", bringviews.BringForget.as_view(), name="bring-forget"),
    path("catalogue/take-out/<slug:form>/", sheetviews.TakeOut.as_view(), name="take-out"),
]
