"""The shop's name and words: what stands around the listings."""

from typing import Any

from django import forms
from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _
from django.utils.translation import gettext_lazy as _l

from binsort.changes.shop_face import Face, set_face
from binsort.core.values.amounts import read_amount
from binsort.core.values.numbers import written
from binsort.racks.shop_face import the_face
from binsort.workbench.frame.views import OwnerView


class FaceForm(forms.Form):
    """Name, words, and from what sum on delivery is free."""

    name = forms.CharField(label=_l("Name of the shop"), required=False, max_length=80)
    search = forms.CharField(label=_l("In the field that searches it"), required=False, max_length=80)
    foot = forms.CharField(label=_l("At the foot of every page"), required=False, max_length=160)
    free_from = forms.CharField(label=_l("Delivery is free from"), required=False, max_length=20)

    def clean_free_from(self) -> Any:
        """Read a sum; none says nothing of delivery."""
        text = self.cleaned_data["free_from"].strip()
        read = read_amount(text) if text else None
        if text and (read is None or read[0] <= 0):
            raise forms.ValidationError(_("Write a sum such as 75 or 49.50, or nothing to say nothing of delivery."))
        return read[0] if read else None


class ShopFacePage(OwnerView):
    """What the shop calls itself; kept at once, shoppers see it on their next page."""

    template = "workbench/face/face.html"
    section = "listings"

    def get(self, request: HttpRequest) -> HttpResponse:
        face = the_face()
        told = {"name": face.name, "search": face.search, "foot": face.foot}
        form = FaceForm(initial={**told, "free_from": written(face.free_from) if face.free_from else ""})
        return self.show(request, {"form": form, "next": request.GET.get("next", "")})

    def post(self, request: HttpRequest) -> HttpResponse:
        form = FaceForm(request.POST)
        if not form.is_valid():
            return self.show(request, {"form": form, "next": request.POST.get("next", "")}, status=422)
        if set_face(Face(**form.cleaned_data), actor=request.user):
            messages.success(request, _("Kept. Shoppers see it on their next page."))
        return redirect("start" if request.POST.get("next") == "start" else "shop-face")
