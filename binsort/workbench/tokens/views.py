"""The page of the API: tokens for other systems."""

from django.contrib import messages
from django.http import HttpRequest, HttpResponse
from django.shortcuts import redirect
from django.utils.translation import gettext as _

from binsort.catalog.models import Token
from binsort.changes import tokens
from binsort.changes.locks import Refused
from binsort.workbench.frame.views import CatalogueView, back_to

_NEW = "new_token"  # in the session, until it is shown


class Api(CatalogueView):
    """Who writes the catalogue from outside."""

    template = "workbench/tokens/api.html"

    def get(self, request: HttpRequest) -> HttpResponse:
        """Show the tokens, a new one with its text, this once."""
        context = {"tokens": Token.objects.filter(ended_at=None), "text": request.session.pop(_NEW, "")}
        return self.show(request, {**context, "address": request.build_absolute_uri("/api/v1/")})

    def post(self, request: HttpRequest) -> HttpResponse:
        """Give a token; loading the page anew gives no other."""
        try:
            request.session[_NEW] = tokens.give(request.POST.get("name", ""), acts=request.POST.getlist("act"), actor=request.user)[1]
        except Refused as error:
            messages.warning(request, _("Not given: %(error)s") % {"error": error})
        return redirect("api")


class TokenEnd(CatalogueView):
    """Ending a token."""

    def post(self, request: HttpRequest, number: int) -> HttpResponse:
        """Do it."""
        done = tokens.end(number, actor=request.user)
        messages.info(request, _("It is ended: calls with it are refused from now on.") if done else _("It was ended before."))
        return back_to(request, "api")
