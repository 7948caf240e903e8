"""The page of the API: tokens for other systems."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.catalog.models import Token
from binsort.changes import tokens
from binsort.changes.locks import Refused
from binsort.workbench.frame.views import CatalogueView


class Api(CatalogueView):
    """Who writes the catalogue from outside."""

    template = "workbench/tokens/api.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show the tokens."""
        return self._page(request)

    def post(self, request: HttpRequest) -> HttpResponse:
        """Give a token; it is shown once."""
        try:
            _, text = tokens.give(request.POST.get("name", ""), actor=request.user)
        except Refused as error:
            messages.warning(request, _("Not given: %(error)s") % {"error": error})
            return redirect("api")
        return self._page(request, text)

    def _page(self, request: HttpRequest, text: str = "") -> HttpResponse:
        context = {"tokens": Token.objects.filter(ended_at=None), "text": text, "address": request.build_absolute_uri("/api/v1/")}
        return self.show(request, context)


class TokenEnd(CatalogueView):
    """Ending a token."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        messages.info(
            request, _("It is ended: calls with it are refused from now on.") if tokens.end(number) else _("It was ended before.")
        )
        return redirect("api")
